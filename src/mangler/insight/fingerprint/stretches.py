"""Which rows a fingerprint looks at: the first ones, of later rows a stretch now and then, by their numbers alone.

So the same rows are looked at however they are divided, and a small extract is looked at whole. What lies between the
stretches is only asked for its values, as long as a column has few: a value that is new is found wherever it is.
"""

from __future__ import annotations

from enum import Enum

import numpy as np

from mangler.late_dataclass import dataclass
from mangler.table.batch import RowNumbers

FIRST_ROWS = 20_000
"""The rows of an extract that tell whether a column is one of numbers, dates or times."""
ALL_ROWS = 100_000
"""Up to this row every row is looked at."""
STRETCH, PERIOD = 4_096, 131_072
"""Beyond it so many rows, from the start of each period on."""


class Look(Enum):
    """How a stretch of rows is looked at."""

    FIRST = "first"
    """Every cell, and how it is written."""
    SOME = "some"
    """Every cell."""
    BETWEEN = "between"
    """Only the values of columns that have few."""


@dataclass(frozen=True)
class Stretch:
    """Rows of a batch that are next to each other and looked at alike: `count` of them from `start` on, from 0."""

    look: Look
    start: int
    count: int


def stretches(rows: RowNumbers) -> list[Stretch]:
    """Divides rows, whose numbers ascend, in stretches that have a row each."""
    if not len(rows):
        return []
    ends = [(FIRST_ROWS, Look.FIRST), (max(ALL_ROWS, FIRST_ROWS), Look.SOME)]
    end, last = ends[-1][0], int(rows[-1])
    if last > end:
        period = max(0, (int(rows[0]) - end - 1) // PERIOD)
        for start in range(end + period * PERIOD, last, PERIOD):
            ends += [(start + STRETCH, Look.SOME), (start + PERIOD, Look.BETWEEN)]
    bounds = np.searchsorted(rows, [row for row, _ in ends], side="right").tolist()
    found, at = [], 0
    for bound, (_, look) in zip(bounds, ends, strict=True):
        if bound > at:
            found.append(Stretch(look, at, bound - at))
            at = bound
    return found
