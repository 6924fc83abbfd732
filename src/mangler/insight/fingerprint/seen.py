"""What was seen of some cells of a column, and what is counted of them."""

from __future__ import annotations

from collections import Counter
from dataclasses import field

import numpy as np
import numpy.typing as npt

from mangler.insight.columns.facts import Counts
from mangler.insight.columns.shape_kinds import MACHINE, ShapeKind
from mangler.insight.fingerprint.fingerprint import MOST_VALUES, Forms
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import TextArray
from mangler.late_dataclass import dataclass

LONGEST_VALUE = 60
LARGEST_SUM = 2.0**62

Parts = dict[str, Counter[int]]
Hashes = npt.NDArray[np.uint64]


@dataclass
class Written:
    """How cells are written, and the least and most of what is plainly a number."""

    forms: Counter[str] = field(default_factory=Counter)
    least: float | None = None
    most: float | None = None
    thousandths: int = 0
    """The sum of what is plainly a number, in thousandths: whole numbers add up alike in any order."""

    def add(self, other: Written) -> None:
        self.forms += other.forms
        self.thousandths += other.thousandths
        if other.least is not None and other.most is not None:
            self.least = other.least if self.least is None else min(self.least, other.least)
            self.most = other.most if self.most is None else max(self.most, other.most)

    @property
    def by_machine(self) -> bool:
        """Whether at least half of the cells are numbers, dates or times."""
        machine = sum(cells for form, cells in self.forms.items() if form in MACHINE or "%" in form)
        return machine * 2 >= self.forms.total()

    @property
    def of_numbers(self) -> bool:
        return self.forms[ShapeKind.NUMBER] * 2 > self.forms.total()


@dataclass
class Seen:
    """Some cells of a column, all of the first rows or none."""

    is_first: bool
    cells: int
    nulls: int
    """Blank cells too."""
    few: dict[str, int] | None = None
    """The values with their cells, where these are few; only then nothing else is reported about them."""
    parts: Parts = field(default_factory=dict)
    lengths: tuple[int, int] | None = None
    """The fewest and the most characters; None where all are blank."""
    written: Written = field(default_factory=Written)
    spaced: int = 0
    """Cells with white space at an end."""
    forms: Forms = field(default_factory=Forms)
    """Of first rows only."""
    hashed: Hashes | None = None
    """A number for each value of first rows, as often as it is there; None where they are not compared."""
    head: TextArray | None = None
    """The cells of the very first rows."""
    is_typed: bool = False
    """Whether the file gives the column another type than text: then `written` is always reported."""
    is_between: bool = False
    """Whether these rows are between those that are looked at: nothing is reported but the values, where they are few,
    and what is counted with them."""


def few_values(values: TextArray, counts: Counts) -> dict[str, int] | None:
    """The values with their cells; None where there are more than a few, or one is long."""
    known: dict[str, int] = {}
    start = 0
    while start < len(values):  # most columns have many values, which a few of them tell
        for value, cells in zip(
            values.slice(start, 2 * MOST_VALUES).to_pylist(),
            counts[start : start + 2 * MOST_VALUES].tolist(),
            strict=True,
        ):
            if len(value) > LONGEST_VALUE:
                return None
            known[value] = known.get(value, 0) + cells
        if len(known) > MOST_VALUES:
            return None
        start += 2 * MOST_VALUES
    return known


def thousandths(numbers: ColumnArray, counts: Counts) -> int:
    """The sum of numbers, each in so many cells, exact to the thousandth of each."""
    scaled = np.rint(np.asarray(numbers) * 1000)
    if float(np.abs(scaled) @ counts) < LARGEST_SUM:
        return int(scaled.astype(np.int64) @ counts)
    return sum(int(one) * count for one, count in zip(scaled.tolist(), counts.tolist(), strict=True))
