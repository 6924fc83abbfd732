"""Where in a file some cells are: how many in each stretch of rows, exact whatever blocks they come in."""

from __future__ import annotations

from collections import Counter
from dataclasses import field

import numpy as np
import numpy.typing as npt

from mangler.late_dataclass import dataclass

MOST_STRETCHES = 32


@dataclass
class Places:
    """Counts by stretches of `width` rows, a power of two; stretch 0 starts with row 1."""

    width: int = 1
    counts: Counter[int] = field(default_factory=Counter)

    @classmethod
    def of(cls, rows: npt.NDArray[np.int64]) -> Places:
        """The places of these rows, numbered from 1."""
        places = cls()
        if len(rows):
            places.width = _width_for(int(rows.max()))
            numbers, times = np.unique((rows - 1) // places.width, return_counts=True)
            places.counts = Counter(dict(zip(numbers.tolist(), times.tolist(), strict=True)))
        return places

    def add(self, other: Places) -> None:
        """Adds those of other rows."""
        width = max(self.width, other.width)
        self.counts = _coarser(self, width)
        self.counts.update(_coarser(other, width))
        self.width = width

    def over(self, rows: int) -> tuple[int, list[int]]:
        """The width of a stretch, and the count of each stretch of a table of so many rows."""
        width = max(self.width, _width_for(rows))
        counts = _coarser(self, width)
        return width, [counts[index] for index in range(-(-rows // width))]


def _width_for(rows: int) -> int:
    """The least power of two so that rows up to this are in MOST_STRETCHES stretches."""
    return 1 << max(0, (-(-rows // MOST_STRETCHES) - 1).bit_length())


def _coarser(places: Places, width: int) -> Counter[int]:
    times = width // places.width
    found: Counter[int] = Counter()
    for index, count in places.counts.items():
        found[index // times] += count
    return found
