"""`sum` and `mean`: exact, whatever the order of the rows; a float is rounded once."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.aggregates.aggregate import Aggregate, Columns, Reducer, Wanted
from mangler.expressions.aggregates.pieces import InPieces
from mangler.expressions.function import NUMBER
from mangler.expressions.value import Failure, failing
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.keys import Codes
from mangler.kernels.keys.segments import Segments, sums_so_far
from mangler.kernels.values.exact_sums import (
    added,
    carried,
    float_pieces,
    float_sums,
    pieces_of,
    to_decimals,
    to_floats,
    to_integers,
)
from mangler.language.declaration import Example
from mangler.late_dataclass import dataclass
from mangler.table.schema import ValueType

TOO_LARGE = {
    ValueType.INTEGER: "the sum has more than 64 bits",
    ValueType.DECIMAL: "the sum has more than 29 digits before the point",
    ValueType.FLOAT: "the sum is too large",
}
BILLIONTHS = 1e9
"""A decimal is a whole number of these."""


@dataclass(frozen=True)
class Sum:
    """Of integers or decimals. The state is how many values there are, and the pieces of their sum."""

    of: ValueType
    mean: bool

    @property
    def kind(self) -> ValueType:
        return ValueType.FLOAT if self.mean else self.of

    def initial_states(self, value: ColumnArray, order: ColumnArray, count: int) -> Columns:  # noqa: ARG002
        there = np.asarray(value.is_valid()).astype(np.int64)
        return [from_numpy(there), *map(from_numpy, pieces_of(value))]

    def fold(self, codes: Codes, count: int, states: Columns) -> Columns:
        counts = added(codes, count, [np.asarray(states[0])])
        pieces = added(codes, count, [np.asarray(state) for state in states[1:]])
        return [from_numpy(state) for state in (*counts, *pieces)]

    def so_far(self, segments: Segments, states: Columns) -> Columns:
        counts, *pieces = (sums_so_far(np.asarray(state), segments) for state in states)
        return [from_numpy(state) for state in (counts, *carried(pieces))]

    def finish(self, states: Columns) -> tuple[ColumnArray, tuple[Failure, ...]]:
        counts, *pieces = (np.asarray(state) for state in states)
        empty = counts == 0
        if self.mean:
            total = to_floats(pieces) / np.maximum(counts, 1)
            means = total / BILLIONTHS if self.of is ValueType.DECIMAL else total
            return from_numpy(means, nulls=empty), ()
        out, too_large = (to_integers if self.of is ValueType.INTEGER else to_decimals)(pieces)
        if empty.any():
            out = pc.if_else(from_numpy(empty), pa.scalar(None, out.type), out)
        return out, failing(too_large, TOO_LARGE[self.of])


@dataclass(frozen=True)
class FloatSum(InPieces):
    """Rows with the pieces of each group's sum, by their place, and how many values there are at the place COUNT."""

    mean: bool
    kind = ValueType.FLOAT

    def collect(self, value: ColumnArray, order: ColumnArray) -> tuple[Codes, Columns]:  # noqa: ARG002
        there = np.flatnonzero(np.asarray(value.is_valid()))
        rows, words, amounts = float_pieces(np.asarray(value.drop_null()))
        counted = np.concatenate([rows, np.arange(len(there))])
        words = np.concatenate([words, np.full(len(there), COUNT)])
        amounts = np.concatenate([amounts, np.ones(len(there), np.int64)])
        return there[counted], [from_numpy(words), from_numpy(amounts)]

    def finish(self, columns: Columns, offsets: Codes) -> tuple[ColumnArray, tuple[Failure, ...]]:
        words, amounts = (np.asarray(column) for column in columns)
        count = len(offsets) - 1
        codes = np.repeat(np.arange(count), offsets[1:] - offsets[:-1])
        counts = np.zeros(count, np.int64)
        is_count = words == COUNT
        np.add.at(counts, codes[is_count], amounts[is_count])
        over = counts if self.mean else np.minimum(counts, 1)
        rest = ~is_count
        out, too_large = float_sums(codes[rest], count, words[rest], amounts[rest], over)
        return out, failing(too_large, TOO_LARGE[ValueType.FLOAT])


COUNT = -1


def _way(wanted: Wanted) -> Reducer:
    kind = (wanted.argument and wanted.argument.kind) or ValueType.INTEGER
    mean = wanted.node.function == "mean"
    return FloatSum(mean) if kind is ValueType.FLOAT else Sum(kind, mean)


AGGREGATES = (
    Aggregate(
        "sum",
        "sum(x)",
        "The sum of the group's numbers, exact whatever their order; one of floats is rounded once, at the end. Nulls"
        " are skipped; of nulls only the sum is null. A sum that does not fit its type fails.",
        (
            Example(
                "group by kiln with made = sum(pieces), share = 100 * sum(good) / sum(pieces)",
                "kiln | pieces integer | good integer\n007 | 12 | 9\n007 | 8 | 8\n012 | null | null",
                "kiln | made integer | share float\n007 | 20 | 85\n012 | null | null",
            ),
        ),
        _way,
        NUMBER,
    ),
    Aggregate(
        "mean",
        "mean(x)",
        "The mean of the group's numbers, as a float. Nulls are skipped, and not counted.",
        (
            Example(
                "group with usual = round(mean(peak), 1)",
                "peak integer\n1222\n1235\nnull\n998",
                "usual float\n1151.7",
            ),
        ),
        _way,
        NUMBER,
    ),
)
