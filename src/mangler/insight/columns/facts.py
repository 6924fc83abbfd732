"""What is counted of a column's cells as they pass, a block at a time: exact whatever the size of the file."""

from __future__ import annotations

from collections import Counter
from dataclasses import field

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.insight.columns.places import Places
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.dictionary import as_dictionary, counted
from mangler.kernels.text.mark_counts import marks_per_cell
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.shapes import shapes
from mangler.kernels.text.text_view import Flags, TextArray, view
from mangler.kernels.text.white_space import squeeze, trim, unusual_blanks
from mangler.kernels.values.format_values import format_values
from mangler.kernels.values.spelled import encodes, spelled
from mangler.late_dataclass import dataclass

Counts = npt.NDArray[np.int64]
MARKS = (",", ";", "|", "/", "\\", "\n", ":", "=", "-", "_", "&", "+", " ")
"""Characters that may be between parts."""
MOST_PARTS = 1000
"""Cells with more parts are counted as having so many."""
MOST_SHAPES = 2000
"""So many shapes of a column are distinguished, those met first; the cells of others are counted together."""


@dataclass
class Facts:
    """Counts of cells. Counts of white space are about the cells as stored, counts of marks about the squeezed ones."""

    cells: int = 0
    nulls: int = 0
    empties: int = 0
    """Texts of no characters."""
    blanks: int = 0
    """Texts of white space only."""
    outer: int = 0
    """Cells with white space at an end."""
    inner: int = 0
    """Cells with a run of white space inside, or with any that is no plain space or line break."""
    broken_lines: int = 0
    """Cells with a line break inside."""
    unusual: Counter[str] = field(default_factory=Counter)
    """For each kind of white space but spaces and line breaks, how many cells hold it."""
    parts: dict[str, Counter[int]] = field(default_factory=dict)
    """For each mark that occurs, how many cells have so many parts; a cell without the mark has one."""
    shapes: Counter[str] = field(default_factory=Counter)
    """How many squeezed cells have each shape; the empty shape is for prose and for shapes too many to keep."""
    shortest: tuple[int, str] | None = None
    longest: tuple[int, str] | None = None
    """Characters, and the start of the first such cell."""
    lengths: Counter[int] = field(default_factory=Counter)
    """How many cells have so many binary digits in their number of characters: 3 is for 4 to 7 characters."""
    null_places: Places = field(default_factory=Places)
    """Where nulls are; known of files only."""

    @property
    def filled(self) -> int:
        """Cells that are neither null nor blank."""
        return self.cells - self.nulls - self.empties - self.blanks

    def add(self, other: Facts) -> None:
        """Adds what was counted of later cells."""
        for name in ("cells", "nulls", "empties", "blanks", "outer", "inner", "broken_lines"):
            setattr(self, name, getattr(self, name) + getattr(other, name))
        before, self_filled = self.parts.keys() - other.parts.keys(), other.filled
        for mark in before:
            self.parts[mark][1] += self_filled
        for mark, counts in other.parts.items():
            if mark not in self.parts:
                self.parts[mark] = Counter({1: self.filled - self_filled})
            self.parts[mark] += counts
        self.unusual += other.unusual
        self.lengths += other.lengths
        self.null_places.add(other.null_places)
        for shape, cells in other.shapes.items():
            known = shape in self.shapes or len(self.shapes) < MOST_SHAPES
            self.shapes[shape if known else ""] += cells
        self.shortest = min(self.shortest or other.shortest, other.shortest or self.shortest, key=_size)
        self.longest = max(self.longest or other.longest, other.longest or self.longest, key=_size)


def _size(found: tuple[int, str] | None) -> int:
    return found[0] if found else 0


EXAMPLE = 80
"""Characters kept of the longest cell."""


def facts_of(values: TextArray, counts: Counts, nulls: int) -> Facts:
    """What is counted of a block's distinct values, each of which so many cells have. No value is null."""
    facts = Facts(int(counts.sum()) + nulls, nulls)
    if not len(values):
        return facts
    cells = view(values)
    trimmed = trim(values).array
    squeezed = squeeze(values, True, True, False).array
    if trimmed is not values:
        ends_differ = cells.lengths != view(trimmed).lengths
        facts.outer = _sum(counts, ends_differ)
    if squeezed is not trimmed:
        facts.inner = _sum(counts, ~flags_of(pc.equal(squeezed, trimmed)))
    lengths = view(squeezed).lengths
    if not lengths.all():
        facts.empties = _sum(counts, cells.lengths == 0)
        facts.blanks = _sum(counts, lengths == 0) - facts.empties
    for blank, at in unusual_blanks(cells).items():
        facts.unusual[blank] = int(counts[np.unique(at)].sum())
    _count_parts(facts, squeezed, counts, lengths > 0)
    encoded = as_dictionary(shapes(squeezed))
    by_shape = np.bincount(np.asarray(encoded.indices), counts, len(encoded.dictionary))
    filled = lengths > 0
    for shape, cells_of_it in zip(encoded.dictionary.to_pylist(), by_shape.tolist(), strict=True):
        facts.shapes[shape] += int(cells_of_it)
    if not filled.all() and "" in facts.shapes:
        facts.shapes[""] -= _sum(counts, ~filled)
        facts.shapes += Counter()
    _note_lengths(facts, values, counts)
    return facts


def _sum(counts: Counts, flags: Flags) -> int:
    return int(counts[flags].sum())


def _count_parts(facts: Facts, squeezed: TextArray, counts: Counts, filled: Flags) -> None:
    cells = view(squeezed)
    for mark in MARKS:
        times = marks_per_cell(cells, ord(mark))
        if times is None:
            continue
        each = np.minimum(times + 1, MOST_PARTS)
        histogram = np.bincount(each[filled], counts[filled])
        facts.parts[mark] = Counter({int(n): int(histogram[n]) for n in np.flatnonzero(histogram)})
        if mark == "\n":
            facts.broken_lines = _sum(counts, times > 0)


def _note_lengths(facts: Facts, values: TextArray, counts: Counts) -> None:
    lengths = np.asarray(pc.utf8_length(values))
    digits = np.bincount(np.frexp(lengths.astype(np.float64))[1], counts)
    facts.lengths = Counter({int(n): int(digits[n]) for n in np.flatnonzero(digits)})
    for name, at in (("shortest", int(lengths.argmin())), ("longest", int(lengths.argmax()))):
        start = pc.utf8_slice_codeunits(values.slice(at, 1), 0, EXAMPLE)[0].as_py()
        setattr(facts, name, (int(lengths[at]), start))


def distinct_in(column: ColumnArray) -> tuple[TextArray, Counts, int]:
    """The distinct values of a batch's cells as they are written, how many cells have each, and how many are null."""
    values, counts = counted(column if encodes(column) else spelled(column))
    return (pa.array([], pa.string()) if values is None else format_values(values)), counts, column.null_count
