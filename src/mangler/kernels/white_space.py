"""Trimming and squeezing white space, on a column's bytes.

What counts as white space is `mangler.blanks`; Arrow's own trim and RE2's `\\s` disagree with it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from mangler.blanks import BLANKS, LINE_BREAKS, ZERO_WIDTH
from mangler.kernels.text_view import (
    Bytes,
    Flags,
    Offsets,
    TextArray,
    TextView,
    build,
    cells_at,
    count_distinct_sorted,
    view,
)

SPACE, LINE_BREAK, NO_WIDTH = 1, 2, 3
NEWLINE, BLANK = 10, 32
DELETED = 0xFF
"""A byte that UTF-8 never holds: marks what is to go."""


@dataclass(frozen=True)
class Cleaned:
    """The column, how many of its cells changed, and how many of those have nothing left."""

    array: TextArray
    changed: int
    emptied: int


def trim(array: TextArray, left: bool = True, right: bool = True) -> Cleaned:
    """White space off the chosen ends. A column with none there is passed on as it is."""
    cells = view(array)
    if not _suspicious_ends(cells, left, right):
        return Cleaned(array, 0, 0)
    strip = pc.utf8_trim if left and right else pc.utf8_ltrim if left else pc.utf8_rtrim
    trimmed = strip(array, characters=BLANKS)
    before, after = cells.lengths, view(trimmed).lengths
    shorter = cells.only_valid(before != after)
    changed = int(np.count_nonzero(shorter))
    if not changed:
        return Cleaned(array, 0, 0)
    return Cleaned(trimmed, changed, int(np.count_nonzero(shorter & (after == 0))))


def squeeze(array: TextArray, left: bool, right: bool, lines: bool) -> Cleaned:
    """White space off the chosen ends, and each run inside as one space.

    A run that holds a line break becomes one line break, unless `lines` asks for a space there too. Marks of
    no width disappear without leaving anything. A run at an end that is not trimmed stays as it is.
    """
    cells = view(array)
    if not _needs_squeezing(cells, lines):
        return trim(array, left, right)
    return _squeeze_runs(array, cells, left, right, lines)


# Which columns need anything at all


def _member_table(members: set[int]) -> Flags:
    table = np.zeros(256, np.bool_)
    table[sorted(members)] = True
    return table


_FIRST_OF_BLANK = _member_table({c.encode()[0] for c in BLANKS})
_LAST_OF_BLANK = _member_table({c.encode()[-1] for c in BLANKS})


def _suspicious_ends(cells: TextView, left: bool, right: bool) -> bool:
    """Whether any cell starts, or ends, with a byte that may belong to white space."""
    if not len(cells.data):
        return False
    last = len(cells.data) - 1
    # An empty cell looks at its neighbour's byte, which that neighbour looks at too: no harm done.
    if left and _FIRST_OF_BLANK[cells.data[np.minimum(cells.starts, last)]].any():
        return True
    return bool(right and _LAST_OF_BLANK[cells.data[np.maximum(cells.ends - 1, 0)]].any())


def _needs_squeezing(cells: TextView, lines: bool) -> bool:
    """Whether there are two blanks in a row, or one that is neither a space nor a line feed that may stay."""
    data = cells.data
    if len(data) == 0:
        return False
    spaces = data == BLANK
    controls = (data - np.uint8(9)) < 5
    if controls.any():
        if lines or np.count_nonzero(controls) != np.count_nonzero(data == NEWLINE):
            return True
        spaces |= controls
    if (spaces[1:] & spaces[:-1]).any():
        return True
    return data.max() >= 0x80 and any(len(at) for at, _, _ in _wide_blanks(data))


def _wide_blanks(data: Bytes) -> list[tuple[npt.NDArray[np.intp], int, int]]:
    """Where blanks of several bytes stand: positions, the bytes each takes, and its kind."""
    found = []
    by_lead: dict[int, npt.NDArray[np.intp]] = {}
    for blank in BLANKS:
        spelled = blank.encode()
        if len(spelled) == 1:
            continue
        if spelled[0] not in by_lead:
            leads = np.flatnonzero(data == spelled[0])
            by_lead[spelled[0]] = leads[leads + len(spelled) <= len(data)]
        at = by_lead[spelled[0]]
        for distance, byte in enumerate(spelled[1:], 1):
            if not len(at):
                break
            at = at[data[at + distance] == byte]
        if len(at):
            found.append((at, len(spelled), _kind_of(blank)))
    return found


def _kind_of(blank: str) -> int:
    return LINE_BREAK if blank in LINE_BREAKS else NO_WIDTH if blank in ZERO_WIDTH else SPACE


# The runs of blanks, and what becomes of each


_KIND_OF_BYTE = np.zeros(256, np.uint8)
for _blank in BLANKS:
    if ord(_blank) < 0x80:
        _KIND_OF_BYTE[ord(_blank)] = _kind_of(_blank)


@dataclass(frozen=True)
class _Runs:
    """Runs of blank bytes, none across the border of two cells."""

    starts: npt.NDArray[np.intp]
    ends: npt.NDArray[np.intp]
    has_space: Flags
    has_break: Flags


def _find_runs(cells: TextView) -> _Runs:
    data = cells.data
    kinds = _KIND_OF_BYTE[data]
    if data.max() >= 0x80:
        for at, length, kind in _wide_blanks(data):
            for distance in range(length):
                kinds[at + distance] = kind
    blank_at = np.flatnonzero(kinds)
    borders = np.zeros(len(data) + 1, np.bool_)
    borders[cells.offsets] = True
    opens = np.ones(len(blank_at), np.bool_)
    opens[1:] = (blank_at[1:] != blank_at[:-1] + 1) | borders[blank_at[1:]]
    first = np.flatnonzero(opens)
    last = np.append(first[1:], len(blank_at)) - 1
    blank_kinds = kinds[blank_at]
    return _Runs(
        blank_at[first],
        blank_at[last] + 1,
        np.logical_or.reduceat(blank_kinds == SPACE, first),
        np.logical_or.reduceat(blank_kinds == LINE_BREAK, first),
    )


def _squeeze_runs(array: TextArray, cells: TextView, left: bool, right: bool, lines: bool) -> Cleaned:
    data = cells.data
    runs = _find_runs(cells)
    borders = np.zeros(len(data) + 1, np.bool_)
    borders[cells.offsets] = True
    at_start, at_end = borders[runs.starts], borders[runs.ends]
    vanishes = (at_start & left) | (at_end & right)
    stays = (at_start | at_end) & ~vanishes
    replacement = np.where(runs.has_break & (not lines), NEWLINE, BLANK).astype(np.uint8)
    vanishes |= ~stays & ~(runs.has_space | runs.has_break)
    lengths = runs.ends - runs.starts
    kept = np.where(stays, lengths, np.where(vanishes, 0, 1))
    changed = ~stays & ((kept != lengths) | (data[runs.starts] != replacement))
    if not changed.any():
        return Cleaned(array, 0, 0)

    # Runs that change: their first byte becomes the replacement, the rest is marked and deleted.
    out = data.copy()
    starts, ends, gone = runs.starts[changed], runs.ends[changed], vanishes[changed]
    out[starts] = np.where(gone, DELETED, replacement[changed])
    rest = ends - starts - 1
    longer = rest > 0
    if longer.any():
        out[_ranges(starts[longer] + 1, rest[longer])] = DELETED
    removed = np.concatenate(([0], np.cumsum(lengths[changed] - kept[changed])))
    before_each_offset = removed[np.searchsorted(starts, cells.offsets, side="left")]
    offsets = (cells.offsets - before_each_offset).astype(np.int32)
    squeezed = build(out.tobytes().translate(None, bytes([DELETED])), offsets, cells.valid)

    touched = cells_at(cells.offsets, starts)
    if cells.valid is not None:
        touched = touched[cells.valid[touched]]
    emptied = cells.only_valid((cells.lengths > 0) & _empty(offsets))
    return Cleaned(squeezed, count_distinct_sorted(touched), int(np.count_nonzero(emptied)))


def _empty(offsets: Offsets) -> Flags:
    flags: Flags = offsets[1:] == offsets[:-1]
    return flags


def _ranges(starts: npt.NDArray[np.intp], lengths: npt.NDArray[np.intp]) -> npt.NDArray[np.intp]:
    """All positions of the ranges, one after the other."""
    ends = np.cumsum(lengths)
    positions: npt.NDArray[np.intp] = np.arange(ends[-1]) + np.repeat(starts - (ends - lengths), lengths)
    return positions
