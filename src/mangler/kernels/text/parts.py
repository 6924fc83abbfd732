"""Cells cut into parts: where each part is in the column's bytes, and which parts are of which cell."""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import from_numpy
from mangler.kernels.taking import take
from mangler.kernels.text.blank_bounds import trimmed_bounds
from mangler.kernels.text.blank_bytes import MAY_OPEN_BLANK
from mangler.kernels.text.delimiters import QUOTE, Delimiters, find
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import Bytes, Flags, Positions, TextArray, build, view
from mangler.late_dataclass import dataclass

Numbers = npt.NDArray[np.intp]


@dataclass(frozen=True)
class Parts:
    """Part k is `data[starts[k]:ends[k]]`; those of cell i are the parts from `first[i]` up to `first[i + 1]`.

    Null and blank cells have none. `cell_ends[i]` is where the bytes of cell i end.
    """

    data: Bytes
    starts: Positions
    ends: Positions
    first: Numbers
    cell_ends: Positions
    opens: Positions | None = None
    """Where parts start with the quotes that were taken off; None: there are none."""
    doubled: Flags | None = None
    """Parts that were in quotes and hold doubled ones; None: there are none."""

    @property
    def counts(self) -> Numbers:
        """How many parts each cell has."""
        return np.diff(self.first)

    @cached_property
    def empty(self) -> Flags:
        """Which parts have no characters."""
        flags: Flags = self.starts == self.ends
        return flags

    @cached_property
    def _between(self) -> TextArray:
        """The parts and what is between them in turn, as one column on the bytes that are there."""
        if not len(self.starts):
            return pa.array([], pa.string())
        offsets = np.empty(2 * len(self.starts), np.int32)
        offsets[0::2], offsets[1::2] = self.starts, self.ends
        return build(self.data, offsets, None)

    def texts(self, numbers: Numbers, there: Flags | None = None) -> TextArray:
        """The parts of these numbers as a column; null where `there` is off."""
        if not len(self.starts):
            return pa.nulls(len(numbers), pa.string())
        if there is not None and not there.all():
            texts = self._between.take(from_numpy(np.where(there, numbers * 2, 0), nulls=~there))
        else:
            there, texts = None, take(self._between, numbers * 2)
        if self.doubled is None:
            return texts
        flags = self.doubled[numbers] if there is None else self.doubled[np.where(there, numbers, 0)] & there
        single = pc.replace_substring(texts, pattern='""', replacement='"')
        return pc.if_else(from_numpy(flags), single, texts)

    def all_texts(self) -> TextArray:
        return self.texts(np.arange(len(self.starts)))

    def rests(self, numbers: Numbers, there: Flags, trim: bool = True) -> TextArray:
        """For each cell its own text, quotes included, from the part of this number on; null where `there` is off."""
        where = np.flatnonzero(there)
        starts = (self.starts if self.opens is None else self.opens)[numbers[where]]
        ends = self.cell_ends[where]
        if trim:
            starts, ends = trimmed_bounds(self.data, starts, ends)
        texts = Parts(self.data, starts, ends, np.arange(len(where) + 1), ends).all_texts()
        positions = np.zeros(len(there), np.intp)
        positions[where] = np.arange(len(where))
        return texts.take(from_numpy(positions, nulls=~there))

    def only(self, keep: Flags) -> Parts:
        """These parts only, each still of its cell."""
        if keep.all():
            return self
        before = np.zeros(len(keep) + 1, np.intp)
        np.cumsum(keep, out=before[1:])
        return replace(
            self,
            starts=self.starts[keep],
            ends=self.ends[keep],
            first=before[self.first],
            opens=None if self.opens is None else self.opens[keep],
            doubled=None if self.doubled is None else self.doubled[keep],
        )

    def owners(self) -> Numbers:
        """For each part the cell it is of."""
        return np.repeat(np.arange(len(self.first) - 1), self.counts)


def cut(array: TextArray, delimiters: Delimiters, trim: bool = True, drop_empty: bool = False) -> Parts:
    """The parts of every cell. With `trim` white space around each goes, before it is asked whether it is empty."""
    cells, hits = view(array), find(array, delimiters)
    count = len(array)
    ahead = np.zeros(count + 1, np.intp)
    if len(hits.starts):
        ahead = np.searchsorted(hits.starts, cells.offsets)
        ahead[-1] = len(hits.starts)
    first = ahead + np.arange(count + 1)
    opens = np.zeros(count + len(hits.starts), np.bool_)
    opens[first[:-1]] = True
    closes = np.zeros(len(opens), np.bool_)
    closes[first[1:] - 1] = True
    starts, ends = np.empty(len(opens), np.intp), np.empty(len(opens), np.intp)
    starts[opens], starts[~opens] = cells.starts, hits.ends
    ends[closes], ends[~closes] = cells.ends, hits.starts
    if trim:
        starts, ends = trimmed_bounds(cells.data, starts, ends)
    parts = Parts(cells.data, starts, ends, first, cells.ends.astype(np.intp))
    if delimiters.quoted:
        parts = _without_quotes(parts)
    blank = _blank_cells(array)
    keep = ~parts.empty if drop_empty else np.ones(len(opens), np.bool_)
    if blank.any():
        keep &= ~np.repeat(blank, parts.counts)
    return parts.only(keep)


def _blank_cells(array: TextArray) -> Flags:
    """Cells that are null, empty, or white space only."""
    cells = view(array)
    blank = np.zeros(len(array), np.bool_) if cells.valid is None else ~cells.valid
    # Only a cell that starts with what may be white space needs a look.
    suspicious = cells.lengths == 0
    if len(cells.data):
        suspicious |= MAY_OPEN_BLANK[cells.data.take(cells.starts, mode="clip")]
    where = np.flatnonzero(suspicious & ~blank)
    if len(where):
        starts, ends = cells.starts[where].astype(np.intp), cells.ends[where].astype(np.intp)
        starts, ends = trimmed_bounds(cells.data, starts, ends)
        blank[where] = starts == ends
    return blank


def _without_quotes(parts: Parts) -> Parts:
    """Quotes off the parts that are in them; doubled ones inside are noted, to become one."""
    data = parts.data
    if not len(data):
        return parts
    long = parts.ends - parts.starts >= 2
    around = (
        long
        & (data.take(parts.starts, mode="clip") == QUOTE)
        & (data.take(parts.ends - 1, mode="clip") == QUOTE)
    )
    where = np.flatnonzero(around)
    if not len(where):
        return parts
    starts, ends = parts.starts.copy(), parts.ends.copy()
    starts[where] += 1
    ends[where] -= 1
    inner = replace(parts, starts=starts, ends=ends).texts(where)
    holds = flags_of(pc.match_substring(inner, pattern='"'))
    # `"a" and "b"` starts and ends with quotes, but is not inside them: those inside are not doubled.
    lone = flags_of(
        pc.match_substring(pc.replace_substring(inner, pattern='""', replacement=""), pattern='"')
    )
    starts[where[lone]] -= 1
    ends[where[lone]] += 1
    doubled: Any = None
    if (holds & ~lone).any():
        doubled = np.zeros(len(starts), np.bool_)
        doubled[where[holds & ~lone]] = True
    return replace(parts, starts=starts, ends=ends, opens=parts.starts, doubled=doubled)
