"""Trimming and squeezing white space, on a column's bytes.

What counts as white space is `mangler.blanks`; Arrow's own trim and RE2's `\\s` disagree with it.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from mangler.blanks import BLANKS, LINE_BREAKS, ZERO_WIDTH
from mangler.kernels import compiled
from mangler.kernels.text.blank_bytes import MAY_CLOSE_BLANK, MAY_OPEN_BLANK
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.patterns import flags_of, values_recur
from mangler.kernels.text.text_view import (
    Bytes,
    Flags,
    Offsets,
    Positions,
    TextArray,
    TextView,
    cells_at,
    count_distinct_sorted,
    view,
    with_text,
)
from mangler.late_dataclass import dataclass

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
    if compiled.spaces is not None:
        return _compiled(array, left, right, False, False)
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
    if compiled.spaces is not None:
        return _compiled(array, left, right, True, lines)
    cells = view(array)
    need = _need_of(cells, lines)
    if need == NO_BLANKS:
        return Cleaned(array, 0, 0)
    if need == LONE_BLANKS:
        return trim(array, left, right)
    if values_recur(array):
        return _squeeze_distinct(array, left, right, lines)
    return _squeeze_runs(array, cells, left, right, lines)


def _compiled(array: TextArray, left: bool, right: bool, squeezes: bool, lines: bool) -> Cleaned:
    assert compiled.spaces is not None
    found = compiled.spaces.clean(array, left, right, squeezes, lines)
    if found is None:
        return Cleaned(array, 0, 0)
    content, offsets, changed, emptied = found
    return Cleaned(with_text(array, content, offsets), changed, emptied)


def _squeeze_distinct(array: TextArray, left: bool, right: bool, lines: bool) -> Cleaned:
    """The same, done once a distinct value: encoding costs less than fixing many cells."""
    encoded = as_dictionary(array)
    values = encoded.dictionary
    squeezed = _squeeze_runs(values, view(values), left, right, lines).array
    if squeezed is values:
        return Cleaned(array, 0, 0)
    differs = flags_of(pc.not_equal(values, squeezed))
    empties = differs & (view(squeezed).lengths == 0)
    codes = encoded.indices
    each = np.bincount(np.asarray(codes.drop_null() if codes.null_count else codes), minlength=len(values))
    return Cleaned(squeezed.take(codes), int(each[differs].sum()), int(each[empties].sum()))


# Which columns need anything at all


def _suspicious_ends(cells: TextView, left: bool, right: bool) -> bool:
    """Whether any cell starts, or ends, with a byte that may belong to white space."""
    if not len(cells.data):
        return False
    # An empty cell looks at its neighbour's byte, which that neighbour looks at too: no harm done.
    if left and MAY_OPEN_BLANK[cells.data.take(cells.starts, mode="clip")].any():
        return True
    return bool(right and MAY_CLOSE_BLANK[cells.data.take(cells.ends - 1, mode="clip")].any())


NO_BLANKS, LONE_BLANKS, RUNS = range(3)


def _need_of(cells: TextView, lines: bool) -> int:
    """Whether there are blanks at all, and two in a row or one that is neither a space nor a line feed."""
    data = cells.data
    if len(data) == 0:
        return NO_BLANKS
    spaces: Flags = data == BLANK
    controls = (data - np.uint8(9)) < 5
    any_control = bool(controls.any())
    if any_control:
        if lines or np.count_nonzero(controls) != np.count_nonzero(data == NEWLINE):
            return RUNS
        spaces |= controls
    if (spaces[1:] & spaces[:-1]).any():
        return RUNS
    if data.max() >= 0x80 and _wide_blanks(data):
        return RUNS
    return LONE_BLANKS if any_control or spaces.any() else NO_BLANKS


def _wide_blanks(data: Bytes) -> list[tuple[npt.NDArray[np.intp], int, int]]:
    """Where blanks of several bytes are: positions, the bytes each takes, and its kind."""
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


def unusual_blanks(cells: TextView) -> dict[str, Positions]:
    """The cells that hold each kind of white space but spaces and line breaks, a cell as often as it is there."""
    found: dict[str, Positions] = {}
    data = cells.data
    if not len(data):
        return found
    controls = np.flatnonzero((data - np.uint8(9)) < 5)
    for code in (9, 11, 12):
        at = controls[data[controls] == code]
        if len(at):
            found[chr(code)] = cells_at(cells.offsets, at)
    if data.max() >= 0x80:
        for at, length, _ in _wide_blanks(data):
            spelled = bytes(data[at[0] : at[0] + length]).decode()
            found[spelled] = cells_at(cells.offsets, at)
    return found


def _kind_of(blank: str) -> int:
    return LINE_BREAK if blank in LINE_BREAKS else NO_WIDTH if blank in ZERO_WIDTH else SPACE


# The runs of blanks, and what happens to each


_KIND_OF_BYTE = np.zeros(256, np.uint8)
for _blank in BLANKS:
    if ord(_blank) < 0x80:
        _KIND_OF_BYTE[ord(_blank)] = _kind_of(_blank)


@dataclass(frozen=True)
class _Runs:
    """Runs of blank bytes, none across the border of two cells."""

    starts: npt.NDArray[np.intp]
    ends: npt.NDArray[np.intp]
    at_start: Flags
    """Whether the run opens its cell."""
    at_end: Flags
    has_space: Flags
    has_break: Flags


def blank_flags(data: Bytes) -> Flags:
    """Which bytes belong to white space."""
    blank: Flags = (data - np.uint8(9)) < 5
    blank |= data == BLANK
    if len(data) and data.max() >= 0x80:
        for at, length, _ in _wide_blanks(data):
            for distance in range(length):
                blank[at + distance] = True
    return blank


def _find_runs(cells: TextView) -> _Runs:
    """The runs that may have to change: all but a lone space between two other characters."""
    data, size = cells.data, len(cells.data)
    blank: Flags = (data - np.uint8(9)) < 5
    lone = data == BLANK
    wide = _wide_blanks(data) if data.max() >= 0x80 else []
    blank |= lone
    for at, length, _ in wide:
        for distance in range(length):
            blank[at + distance] = True
    splitters = np.zeros(size + 1, np.bool_)
    splitters[cells.offsets] = True
    # A space is lone when neither neighbour is blank and it is at no border.
    lone[1:] &= ~blank[:-1]
    lone[:-1] &= ~blank[1:]
    lone &= ~splitters[:-1]
    lone &= ~splitters[1:]
    blank ^= lone
    at = np.flatnonzero(blank)
    kinds = _KIND_OF_BYTE[data[at]]
    for wide_at, length, kind in wide:
        first = np.searchsorted(at, wide_at)
        for distance in range(length):
            kinds[first + distance] = kind
    opens = np.ones(len(at), np.bool_)
    opens[1:] = (at[1:] != at[:-1] + 1) | splitters[at[1:]]
    first = np.flatnonzero(opens)
    starts = at[first]
    ends = at[np.append(first[1:], len(at)) - 1] + 1
    if len(first) == len(at):
        has_space, has_break = kinds == SPACE, kinds == LINE_BREAK
    else:
        has_space = np.logical_or.reduceat(kinds == SPACE, first)
        has_break = np.logical_or.reduceat(kinds == LINE_BREAK, first)
    return _Runs(starts, ends, splitters[starts], splitters[ends], has_space, has_break)


def _squeeze_runs(array: TextArray, cells: TextView, left: bool, right: bool, lines: bool) -> Cleaned:
    data = cells.data
    runs = _find_runs(cells)
    vanishes = (runs.at_start & left) | (runs.at_end & right)
    stays = (runs.at_start | runs.at_end) & ~vanishes
    replacement = np.where(runs.has_break & (not lines), np.uint8(NEWLINE), np.uint8(BLANK))
    vanishes |= ~stays & ~(runs.has_space | runs.has_break)
    removed = runs.ends - runs.starts - ~vanishes
    changed = ~stays & ((removed > 0) | (data[runs.starts] != replacement))
    if not changed.any():
        return Cleaned(array, 0, 0)

    # Runs that change: their first byte becomes the replacement, the rest is marked and deleted.
    out = data.copy()
    starts, ends, removed = runs.starts[changed], runs.ends[changed], removed[changed]
    out[starts] = np.where(vanishes[changed], np.uint8(DELETED), replacement[changed])
    rest = ends - starts - 1
    longer = rest > 0
    if longer.any():
        out[_ranges(starts[longer] + 1, rest[longer])] = DELETED
    touched = cells_at(cells.offsets, starts)
    shorter_by = np.zeros(len(cells.offsets), np.int64)
    np.add.at(shorter_by, touched + 1, removed)
    offsets = (cells.offsets - np.cumsum(shorter_by)).astype(np.int32)
    squeezed = with_text(array, out.tobytes().translate(None, bytes([DELETED])), offsets)

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
