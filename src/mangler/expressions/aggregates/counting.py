"""`count`"""

from __future__ import annotations

import numpy as np

from mangler.expressions.aggregates.aggregate import Aggregate, Columns, Reducer, Wanted
from mangler.expressions.aggregates.collecting import Collected
from mangler.expressions.value import Failure
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.keys import Codes
from mangler.kernels.keys.segments import Segments, sums_so_far
from mangler.kernels.values.exact_sums import added
from mangler.language.declaration import Example
from mangler.late_dataclass import dataclass
from mangler.table.schema import ValueType


@dataclass(frozen=True)
class Count:
    """How many rows, or how many values there are."""

    kind = ValueType.INTEGER

    def initial_states(self, value: ColumnArray, order: ColumnArray, count: int) -> Columns:  # noqa: ARG002
        ones = np.ones(count, np.int64) if value is None else np.asarray(value.is_valid()).astype(np.int64)
        return [from_numpy(ones)]

    def fold(self, codes: Codes, count: int, states: Columns) -> Columns:
        return [from_numpy(added(codes, count, [np.asarray(states[0])])[0])]

    def so_far(self, segments: Segments, states: Columns) -> Columns:
        return [from_numpy(sums_so_far(np.asarray(states[0]), segments))]

    def finish(self, states: Columns) -> tuple[ColumnArray, tuple[Failure, ...]]:
        return states[0], ()


@dataclass(frozen=True)
class CountDistinct(Collected):
    """How many different values there are."""

    kind = ValueType.INTEGER

    def finish(self, columns: Columns, offsets: Codes) -> tuple[ColumnArray, tuple[Failure, ...]]:  # noqa: ARG002
        return from_numpy(offsets[1:] - offsets[:-1]), ()


def _way(wanted: Wanted) -> Reducer:
    if wanted.distinct:
        return CountDistinct(distinct=True, anycase=wanted.anycase)
    return Count()


AGGREGATES = (
    Aggregate(
        "count",
        "count(), count(x), count(distinct x), count(where CONDITION)",
        "How many rows the group has; how many values x has, or different ones; how many rows meet a condition."
        " Nulls are no values, and a condition that is null is not met.",
        (
            Example(
                "group by kiln with rows = count(), known = count(cone), cones = count(distinct cone)",
                "kiln | cone\n007 | 06\n007 | 06\n007 | null\n012 | null",
                "kiln | rows integer | known integer | cones integer\n007 | 3 | 2 | 1\n012 | 1 | 0 | 0",
            ),
            Example(
                'group by kiln with lost = count(where result = "cracked"), firings = count()',
                "kiln | result\n007 | good\n007 | cracked\n012 | null",
                "kiln | lost integer | firings integer\n007 | 1 | 2\n012 | 0 | 1",
            ),
        ),
        _way,
        takes_distinct=True,
        needs_argument=False,
        skips_nulls=False,
    ),
)
