"""Where delimiters are in the cells of a column, as byte positions.

Texts are found by dense comparison of their first and last byte; what cannot be found so, patterns and letter cases
beyond ASCII, is marked by RE2 with bytes that UTF-8 never holds. Leftmost first; at one place the longest text, then
patterns in their order; what one delimiter has taken no other takes.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow.compute as pc

from mangler.kernels.text.blank_bounds import trimmed_bounds
from mangler.kernels.text.patterns import escape, refuse_too_much_work
from mangler.kernels.text.text_view import Bytes, Flags, Positions, TextArray, TextView, cells_at, view
from mangler.late_dataclass import dataclass

OPENING, CLOSING = 0xFF, 0xFE
QUOTE = 34
_LOWER = bytes(byte + 32 if 65 <= byte <= 90 else byte for byte in range(256))
BEYOND_ASCII = frozenset("ks")
"""Letters that a character outside ASCII folds to: the Kelvin sign and the long s."""


@dataclass(frozen=True)
class Delimiters:
    """What ends a part: texts and patterns (in RE2's syntax); or positions, counted in characters.

    `anycase` applies to the texts. `which` is `all`, `first` or `last`, of the occurrences in a cell. With `quoted`
    those inside double quotes do not count; a quote that is never closed is a character like others.
    """

    texts: tuple[str, ...] = ()
    patterns: tuple[str, ...] = ()
    positions: tuple[int, ...] = ()
    anycase: bool = False
    which: str = "all"
    quoted: bool = False
    inner: bool = False
    """Delimiters in the white space around a cell do not count."""


@dataclass(frozen=True)
class Hits:
    """`starts[k]` to `ends[k]` is a delimiter, in the order of the bytes; none reaches over two cells."""

    starts: Positions
    ends: Positions

    def only(self, flags: Flags) -> Hits:
        return self if flags.all() else Hits(self.starts[flags], self.ends[flags])


NO_HITS = Hits(np.zeros(0, np.intp), np.zeros(0, np.intp))


def find(array: TextArray, delimiters: Delimiters) -> Hits:
    """The delimiters of all cells; bytes under nulls may hold some too."""
    cells = view(array)
    if not len(cells.data):
        return NO_HITS
    if delimiters.positions:
        hits = _at_positions(cells, delimiters.positions)
    elif delimiters.patterns or (delimiters.anycase and not _folds_in_ascii(cells.data, delimiters.texts)):
        hits = _of_patterns(array, delimiters)
    else:
        hits = _of_texts(cells, delimiters)
    if delimiters.quoted and len(hits.starts):
        quotes = _closed_quotes(cells)
        hits = hits.only(np.searchsorted(quotes, hits.starts) % 2 == 0)
    if delimiters.inner and len(hits.starts):
        hits = _inside(cells, hits)
    return hits if delimiters.which == "all" else _one_each(cells, hits, delimiters.which == "last")


def _inside(cells: TextView, hits: Hits) -> Hits:
    """Without delimiters that are in the white space around their cell."""
    owner = cells_at(cells.offsets, hits.starts)
    starts, ends = trimmed_bounds(cells.data, cells.starts.astype(np.intp), cells.ends.astype(np.intp))
    return hits.only((hits.ends > starts[owner]) & (hits.starts < ends[owner]))


def _one_each(cells: TextView, hits: Hits, last: bool) -> Hits:
    """The first or the last delimiter of each cell."""
    if not len(hits.starts):
        return hits
    owner = cells_at(cells.offsets, hits.starts)
    differs = owner[1:] != owner[:-1]
    return hits.only(np.append(differs, True) if last else np.append(True, differs))


# Texts


def _folds_in_ascii(data: Bytes, texts: Sequence[str]) -> bool:
    """Whether lower case of ASCII alone finds these texts in any letter case."""
    if not all(text.isascii() for text in texts):
        return False
    return data.max() < 0x80 or not any(BEYOND_ASCII & set(text.lower()) for text in texts)


def _of_texts(cells: TextView, delimiters: Delimiters) -> Hits:
    data, texts = cells.data, [text.encode() for text in delimiters.texts]
    if delimiters.anycase:
        data = np.frombuffer(data.tobytes().translate(_LOWER), np.uint8)
        texts = [text.translate(_LOWER) for text in texts]
    texts = sorted(set(texts), key=len)
    single = [text[0] for text in texts if len(text) == 1]
    found: Any = None
    for byte in single:
        hit = data == byte
        found = hit if found is None else np.logical_or(found, hit, out=found)
    starts = np.zeros(0, np.intp) if found is None else np.flatnonzero(found)
    if len(single) == len(texts):
        return Hits(starts, starts + 1)
    all_starts, all_ends = [starts], [starts + 1]
    for text in texts:
        if len(text) > 1:
            at = occurrences(data, text)
            owner = cells_at(cells.offsets, at)
            at = at[cells.ends[owner] >= at + len(text)]
            all_starts.append(at)
            all_ends.append(at + len(text))
    return _without_overlaps(np.concatenate(all_starts), np.concatenate(all_ends))


def occurrences(data: Bytes, text: bytes) -> Positions:
    """All places where the bytes of a text of at least two are, also overlapping ones."""
    size = len(data) - len(text) + 1
    if size <= 0:
        return np.zeros(0, np.intp)
    hits = data[:size] == text[0]
    hits &= data[len(text) - 1 :] == text[-1]
    at = np.flatnonzero(hits)
    for distance in range(1, len(text) - 1):
        if not len(at):
            break
        at = at[data[at + distance] == text[distance]]
    return at


def _without_overlaps(starts: Positions, ends: Positions) -> Hits:
    """From the left: at one place the longest, and none that starts inside one that was taken."""
    order = np.lexsort((-ends, starts))
    starts, ends = starts[order], ends[order]
    if len(starts) > 1:
        longest = np.append(True, starts[1:] != starts[:-1])
        starts, ends = starts[longest], ends[longest]
    reach = np.maximum.accumulate(ends) if len(ends) else ends
    taken = np.ones(len(starts), np.bool_)
    taken[1:] = starts[1:] >= reach[:-1]
    if taken.all():
        return Hits(starts, ends)
    # Where they overlap, each that is taken leads to the next: followed in doubling strides, not one by one.
    following = np.append(np.searchsorted(starts, ends), len(starts))
    taken = np.append(taken, False)
    while True:
        before = np.count_nonzero(taken)
        taken[following[np.flatnonzero(taken[:-1])]] = True
        taken[-1] = False
        if np.count_nonzero(taken) == before:
            break
        following = following[following]
    return Hits(starts, ends).only(taken[:-1])


# Patterns


def _of_patterns(array: TextArray, delimiters: Delimiters) -> Hits:
    texts = [escape(text) for text in sorted(delimiters.texts, key=lambda text: -len(text))]
    parts = [f"(?i:{'|'.join(texts)})" if delimiters.anycase else "|".join(texts)] if texts else []
    parts += [f"(?:{pattern})" for pattern in delimiters.patterns]
    refuse_too_much_work(array, "|".join(parts))
    marks = bytes([OPENING]) + b"\\0" + bytes([CLOSING])
    marked = view(pc.replace_substring_regex(array, pattern="|".join(parts), replacement=marks))
    opened, closed = np.flatnonzero(marked.data == OPENING), np.flatnonzero(marked.data == CLOSING)
    moved = 2 * np.arange(len(opened))  # each mark before moved what follows by a byte
    cells = view(array)
    if cells.valid is not None:  # and bytes under nulls were left out
        left_out = np.cumsum(np.where(cells.valid, 0, cells.lengths))
        moved -= left_out[cells_at(marked.offsets, opened)]
    starts, ends = opened - moved, closed - moved - 1
    return Hits(starts, ends).only(ends > starts)


# Positions


def _at_positions(cells: TextView, positions: Sequence[int]) -> Hits:
    """Cuts of no length after so many characters; a cut where a cell ends would leave nothing, and is none."""
    data = cells.data
    starts = cells.starts.astype(np.intp)
    wanted = np.array(sorted(set(positions)), np.intp)
    if data.max() < 0x80:
        there = cells.lengths[:, None] > wanted
        at = (starts[:, None] + wanted)[there]
        return Hits(at, at)
    leads = np.flatnonzero((data & 0xC0) != 0x80)
    first = np.searchsorted(leads, cells.offsets)
    there = np.diff(first)[:, None] > wanted
    at = leads[(first[:-1, None] + wanted)[there]]
    return Hits(at, at)


# Quotes


def _closed_quotes(cells: TextView) -> Positions:
    """The double quotes that open or close something: of an odd number in a cell the last one does not."""
    quotes = np.flatnonzero(cells.data == QUOTE)
    if not len(quotes):
        return quotes
    owner = cells_at(cells.offsets, quotes)
    number = np.bincount(owner, minlength=len(cells.offsets))
    last = np.append(owner[1:] != owner[:-1], True)
    closed: Positions = quotes[~(last & (number[owner] % 2 == 1))]
    return closed
