"""Rows that are group by group: what each row sees of the rows of its group before it.

A piece of such rows may start in the middle of a group. What is to be known of the rows before is handed in.
"""

from __future__ import annotations

from functools import cached_property

import numpy as np

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.group_order import chosen
from mangler.kernels.keys.keys import Codes
from mangler.kernels.keys.order import SortKey, ranks
from mangler.kernels.text.text_view import Flags
from mangler.late_dataclass import dataclass

NONE = -1


@dataclass(frozen=True)
class Segments:
    """`starts` are the first rows of groups, the first one 0, of `count` rows.

    `before` is how many rows of the first group came before these; 0 where it starts here.
    """

    starts: Codes
    count: int
    before: int = 0

    @classmethod
    def of(cls, codes: Codes, before: int = 0) -> Segments:
        """Of the numbers of the rows' groups; rows of a group are together."""
        starts = (
            np.flatnonzero(np.append(True, codes[1:] != codes[:-1])) if len(codes) else np.zeros(0, np.int64)
        )
        return cls(starts, len(codes), before)

    @cached_property
    def lengths(self) -> Codes:
        return np.diff(np.append(self.starts, self.count))

    @cached_property
    def codes(self) -> Codes:
        """The number of each row's group, from 0."""
        return np.repeat(np.arange(len(self.starts)), self.lengths)

    @cached_property
    def numbers(self) -> Codes:
        """How many rows of its group came before each row."""
        numbers: Codes = np.arange(self.count) - np.repeat(self.starts, self.lengths)
        if self.before:
            numbers[: int(self.lengths[0])] += self.before
        return numbers


def sums_so_far(values: Codes, segments: Segments) -> Codes:
    """The sum of each row and of those before it in its group, within these rows."""
    total = np.cumsum(values)
    base = total[segments.starts] - values[segments.starts]
    sums: Codes = total - np.repeat(base, segments.lengths)
    return sums


def latest(flags: Flags, segments: Segments) -> Codes:
    """For each row the last flagged one of its group up to it; -1 where there is none among these rows."""
    rows = np.maximum.accumulate(np.where(flags, np.arange(segments.count), NONE))
    return np.where(rows >= np.repeat(segments.starts, segments.lengths), rows, NONE)


def earliest(flags: Flags, segments: Segments) -> Codes:
    """For each row the first flagged one of its group, where that is not after it; -1 where there is none."""
    rows = np.flatnonzero(flags)[::-1]
    first = np.full(len(segments.starts), NONE, np.int64)
    first[segments.codes[rows]] = rows  # of equal places the last value stays
    found = first[segments.codes]
    return np.where(found <= np.arange(segments.count), found, NONE)


def extremes_so_far(column: ColumnArray, segments: Segments, greatest: bool) -> ColumnArray:
    """The least or the greatest value of each row and of those before it in its group; nulls pass for nothing."""
    rank, count = ranks(column, SortKey(descending=not greatest, nulls_first=True))
    together = segments.codes * count + rank
    best = np.maximum.accumulate(together) - segments.codes * count
    holder = np.full(count, NONE, np.int64)
    holder[rank] = np.arange(segments.count)
    holder[0] = NONE
    return chosen(column, holder[best])


def shifted(column: ColumnArray, segments: Segments, distance: int) -> ColumnArray:
    """The cell so many rows before each row in its group, after it for a negative distance; null where none is."""
    at = np.arange(segments.count) - distance
    inside = (at >= 0) & (at < segments.count)
    codes = segments.codes
    same = inside.copy()
    same[inside] = codes[at[inside]] == codes[inside]
    return column.take(from_numpy(np.where(same, at, 0), nulls=~same)) if len(column) else column
