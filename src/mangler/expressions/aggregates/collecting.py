"""Aggregates that need a group's values themselves: `join`, `list`, `median`."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.aggregates.aggregate import Aggregate, Arrangement, Columns, Reducer, Wanted
from mangler.expressions.function import ANY, LIST, NUMBER
from mangler.expressions.value import Failure
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.group_order import in_groups, joined, listed, middle, quantile
from mangler.kernels.keys.keys import Codes, folded, keys_of
from mangler.kernels.keys.order import SortKey, sort_order
from mangler.kernels.taking import take
from mangler.kernels.values.format_values import format_values
from mangler.language.declaration import Example
from mangler.late_dataclass import dataclass
from mangler.table.schema import ValueType


@dataclass(frozen=True)
class Collected:
    """The values of each group, with what they are sorted by; of `distinct` ones each once."""

    distinct: bool = False
    descending: bool = False
    anycase: bool = False

    def prepare(self, value: ColumnArray) -> ColumnArray:
        return value

    def collect(self, value: ColumnArray, order: ColumnArray) -> tuple[Codes, Columns]:
        rows = np.flatnonzero(np.asarray(value.is_valid()))
        cells = [self.prepare(value)] + ([] if order is None else [order])
        return rows, cells if len(rows) == len(value) else _taken(cells, rows)

    @property
    def folds(self) -> bool:
        return self.distinct

    @property
    def tells_apart(self) -> Callable[[Columns], Columns] | None:
        return self._compared if self.distinct else None

    def fold(self, codes: Codes, columns: Columns) -> tuple[Codes, Columns]:
        rows = self._first_of_each(codes, columns)
        return rows, columns if len(rows) == len(codes) else _taken(columns, rows)

    def arrange(self, codes: Codes, columns: Columns, is_folded: bool = False) -> Arrangement:
        # What a value is sorted by stays with it at first: which of its places counts is known when they are sorted.
        is_folded |= not self.distinct
        if is_folded and len(columns) == 1:
            rows, codes = in_groups(codes)
            return Arrangement(codes, rows, columns)
        rows = np.arange(len(codes)) if is_folded else self._first_of_each(codes, columns)
        if len(columns) > 1:
            rows = rows[sort_order(_taken(columns[1:], rows), [SortKey(self.descending, self.anycase)])]
        order, codes = in_groups(codes[rows])
        rows = rows[order]
        if self.distinct and len(columns) > 1:
            first = self._first_of_each(codes, _taken(columns[:1], rows))
            rows, codes = rows[first], codes[first]
        return Arrangement(codes, rows, columns)

    def _first_of_each(self, codes: Codes, columns: Columns) -> Codes:
        """The first row of each group that has these cells."""
        return keys_of([from_numpy(codes), *self._compared(columns)], len(codes)).first

    def _compared(self, columns: Columns) -> Columns:
        return [folded(column, self.anycase) for column in columns]


def _taken(columns: Columns, rows: Codes) -> Columns:
    return [take(column, rows) for column in columns]


@dataclass(frozen=True)
class Join(Collected):
    """Texts put together with a text between."""

    separator: str = ""
    kind = ValueType.TEXT

    def prepare(self, value: ColumnArray) -> ColumnArray:
        return format_values(value)

    def finish(self, columns: Columns, offsets: Codes) -> tuple[ColumnArray, tuple[Failure, ...]]:
        return joined(columns[0], offsets, self.separator), ()


@dataclass(frozen=True)
class Listed(Collected):
    kind = ValueType.LIST

    def prepare(self, value: ColumnArray) -> ColumnArray:
        return format_values(value)

    def finish(self, columns: Columns, offsets: Codes) -> tuple[ColumnArray, tuple[Failure, ...]]:
        return listed(columns[0], offsets), ()


@dataclass(frozen=True)
class Median(Collected):
    kind = ValueType.FLOAT

    def prepare(self, value: ColumnArray) -> ColumnArray:
        return pc.cast(value, pa.float64(), safe=False)

    def arrange(
        self,
        codes: Codes,
        columns: Columns,
        is_folded: bool = False,  # noqa: ARG002
    ) -> Arrangement:
        order = np.lexsort([np.asarray(columns[0]), codes])
        return Arrangement(codes[order], order, columns)

    def finish(self, columns: Columns, offsets: Codes) -> tuple[ColumnArray, tuple[Failure, ...]]:
        return middle(np.asarray(columns[0]), offsets), ()


@dataclass(frozen=True)
class Quantile(Median):
    share: float = 0.5

    def finish(self, columns: Columns, offsets: Codes) -> tuple[ColumnArray, tuple[Failure, ...]]:
        return quantile(np.asarray(columns[0]), offsets, self.share), ()


def _quantile(wanted: Wanted) -> Reducer:
    return Quantile(share=wanted.share)


def _join(wanted: Wanted) -> Reducer:
    return Join(wanted.distinct, wanted.descending, wanted.anycase, wanted.separator)


def _list(wanted: Wanted) -> Reducer:
    return Listed(wanted.distinct, wanted.descending, wanted.anycase)


def _median(wanted: Wanted) -> Reducer:  # noqa: ARG001
    return Median()


PLAIN = ANY - LIST
AGGREGATES = (
    Aggregate(
        "join",
        'join([distinct] x, "between" [sorted by y [descending]])',
        "The group's values with a text between them: in the order of first appearance, or sorted by another column."
        " With distinct each value once. Nulls are skipped; numbers and dates become text in their shortest form.",
        (
            Example(
                'group by kiln with glazes = join(distinct glaze, ", "), months = join(month, "-" sorted by number)',
                "kiln | glaze | month | number integer\n007 | shino | May | 5\n007 | ash | April | 4\n"
                "007 | shino | June | 6",
                'kiln | glazes | months\n007 | "shino, ash" | April-May-June',
            ),
        ),
        _join,
        PLAIN,
        takes_distinct=True,
        takes_order=True,
        takes_separator=True,
    ),
    Aggregate(
        "list",
        "list([distinct] x [sorted by y [descending]])",
        "The group's values as a list of texts, for the functions of lists. Nulls are skipped.",
        (
            Example(
                "group by kiln with glazes = size(list(glaze)), second = item(list(distinct glaze), 2)",
                "kiln | glaze\n007 | shino\n007 | shino\n007 | ash",
                "kiln | glazes integer | second\n007 | 3 | ash",
            ),
        ),
        _list,
        PLAIN,
        takes_distinct=True,
        takes_order=True,
    ),
    Aggregate(
        "median",
        "median(x)",
        "The number in the middle of the group's, as a float; of an even number of them the mean of the two in the"
        " middle. Nulls are skipped.",
        (
            Example(
                "group by kiln with usual = median(peak)",
                "kiln | peak integer\n007 | 1222\n007 | 1235\n007 | 998\n012 | 1\n012 | 2",
                "kiln | usual float\n007 | 1222\n012 | 1.5",
            ),
        ),
        _median,
        NUMBER,
    ),
    Aggregate(
        "quantile",
        "quantile(x, share)",
        "The number that such a share of the group's numbers do not exceed, as a float: 0 is the least, 0.5 the median,"
        " 1 the greatest. Between two of them it is as far as the share says. Nulls are skipped.",
        (
            Example(
                "group by kiln with usual = quantile(peak, 0.5), most = quantile(peak, 0.9)",
                "kiln | peak integer\n007 | 1000\n007 | 1100\n007 | 1200",
                "kiln | usual float | most float\n007 | 1100 | 1180",
            ),
        ),
        _quantile,
        NUMBER,
        takes_share=True,
    ),
)
