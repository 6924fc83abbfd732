"""Aggregates that take one of a group's values: `min`, `max`, `first`, `last`."""

from __future__ import annotations

import numpy as np

from mangler.expressions.aggregates.aggregate import Aggregate, Columns, Reducer, Wanted
from mangler.expressions.aggregates.collecting import PLAIN
from mangler.expressions.value import Failure
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.group_order import chosen, extreme, first_of
from mangler.kernels.keys.keys import Codes
from mangler.kernels.keys.order import SortKey, sort_order
from mangler.kernels.keys.segments import Segments, earliest, extremes_so_far, latest
from mangler.language.declaration import Example
from mangler.late_dataclass import dataclass
from mangler.table.schema import ValueType


@dataclass(frozen=True)
class Extreme:
    """The least or the greatest value."""

    kind: ValueType
    greatest: bool

    def initial_states(self, value: ColumnArray, order: ColumnArray, count: int) -> Columns:  # noqa: ARG002
        return [value]

    def fold(self, codes: Codes, count: int, states: Columns) -> Columns:
        return [extreme(codes, count, states[0], self.greatest)]

    def so_far(self, segments: Segments, states: Columns) -> Columns:
        return [extremes_so_far(states[0], segments, self.greatest)]

    def finish(self, states: Columns) -> tuple[ColumnArray, tuple[Failure, ...]]:
        return states[0], ()


@dataclass(frozen=True)
class Picked:
    """The first value or the last, in the order of the rows, or as another column sorts them.

    Rows without a value there count only where no row of the group has one; of equal ones their order decides.
    """

    kind: ValueType
    last: bool
    descending: bool
    anycase: bool

    def initial_states(self, value: ColumnArray, order: ColumnArray, count: int) -> Columns:  # noqa: ARG002
        return [value] if order is None else [value, order]

    def fold(self, codes: Codes, count: int, states: Columns) -> Columns:
        rows = np.flatnonzero(np.asarray(states[0].is_valid()))
        if self.last:
            rows = rows[::-1]
        if len(states) > 1:
            key = SortKey(self.descending != self.last, self.anycase)
            rows = rows[sort_order([states[1].take(from_numpy(rows))], [key])]
        first = first_of(codes, count, rows)
        return [chosen(state, first) for state in states]

    def so_far(self, segments: Segments, states: Columns) -> Columns:
        """In the order of the rows: with an order of its own it is refused where it is bound."""
        there = np.asarray(states[0].is_valid())
        return [chosen(states[0], (latest if self.last else earliest)(there, segments))]

    def finish(self, states: Columns) -> tuple[ColumnArray, tuple[Failure, ...]]:
        return states[0], ()


def _kind(wanted: Wanted) -> ValueType:
    return (wanted.argument and wanted.argument.kind) or ValueType.TEXT


def _extreme(wanted: Wanted) -> Reducer:
    return Extreme(_kind(wanted), wanted.node.function == "max")


def _picked(wanted: Wanted) -> Reducer:
    return Picked(_kind(wanted), wanted.node.function == "last", wanted.descending, wanted.anycase)


AGGREGATES = (
    Aggregate(
        "min",
        "min(x)",
        "The least value: of numbers, dates and times, or the first of texts by code point. Nulls are skipped.",
        (
            Example(
                "group by kiln with coolest = min(peak)",
                "kiln | peak integer\n007 | 1222\n007 | 998\n012 | null",
                "kiln | coolest integer\n007 | 998\n012 | null",
            ),
        ),
        _extreme,
        PLAIN,
    ),
    Aggregate(
        "max",
        "max(x)",
        "The greatest value. Nulls are skipped.",
        (
            Example(
                "group with latest = max(fired_on), hottest = max(peak)",
                "fired_on date | peak integer\n2026-05-04 | 1222\n2026-05-11 | 998",
                "latest date | hottest integer\n2026-05-11 | 1222",
            ),
        ),
        _extreme,
        PLAIN,
    ),
    Aggregate(
        "first",
        "first(x [sorted by y [descending]])",
        "The first value in the order in which the rows come, or as another column sorts them: so the first month is"
        " the first in the calendar and not in the alphabet. Nulls are skipped.",
        (
            Example(
                "group by kiln with began = first(month sorted by number), typed = first(month)",
                "kiln | month | number integer\n007 | May | 5\n007 | April | 4\n007 | June | 6",
                "kiln | began | typed\n007 | April | May",
            ),
        ),
        _picked,
        takes_order=True,
    ),
    Aggregate(
        "last",
        "last(x [sorted by y [descending]])",
        "The last value in the order in which the rows come, or as another column sorts them. Nulls are skipped.",
        (
            Example(
                "group by kiln with ended = last(month sorted by number)",
                "kiln | month | number integer\n007 | May | 5\n007 | June | 6\n007 | April | 4",
                "kiln | ended\n007 | June",
            ),
        ),
        _picked,
        takes_order=True,
    ),
)
