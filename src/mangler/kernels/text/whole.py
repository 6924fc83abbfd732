"""Matching whole cells: white space around a cell is ignored, and a pattern must match all of it."""

from __future__ import annotations

from functools import cache

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANK_CLASS, BLANKS
from mangler.kernels import compiled
from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.blank_bytes import MAY_CLOSE_BLANK, MAY_OPEN_BLANK
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.patterns import SAMPLE, escape, flags_of, matches, values_recur
from mangler.kernels.text.text_view import Flags, TextArray, TextView, view
from mangler.late_dataclass import dataclass

Codes = npt.NDArray[np.int16]
"""For each cell the number of what it matched, -1 for nothing."""


@dataclass(frozen=True)
class WholeMatcher:
    """Texts without white space around them, and patterns in RE2's syntax; `anycase` applies to the texts."""

    texts: tuple[str, ...]
    patterns: tuple[str, ...] = ()
    anycase: bool = False


@dataclass(frozen=True)
class WholeMatch:
    """`codes` says which text (0, 1, …) or pattern (numbered on from the texts) each cell matches, -1 for none.

    `by_case` and `by_space` flag cells left unmatched that a text would match in another letter case, or
    without any white space inside.
    """

    codes: Codes
    by_case: Flags
    by_space: Flags


def match_whole(array: TextArray, matcher: WholeMatcher) -> WholeMatch:
    codes = np.full(len(array), -1, np.int16)
    by_case = np.zeros(len(array), np.bool_)
    if matcher.patterns:
        where = np.flatnonzero(np.asarray(array.is_valid()))
    else:
        where = np.flatnonzero(_candidates(view(array), matcher.texts))
    if len(where):
        chosen = array if len(where) == len(array) else array.take(from_numpy(where))
        # Where cells recur each distinct one is looked at once.
        if len(chosen) <= SAMPLE or values_recur(chosen):
            encoded = as_dictionary(chosen)
            index = np.asarray(encoded.indices)
            found, near = _match_each(encoded.dictionary, matcher)
            codes[where], by_case[where] = found[index], near[index]
        else:
            codes[where], by_case[where] = _match_each(chosen, matcher)
    return WholeMatch(codes, by_case, _match_without_blanks(array, matcher, codes) & ~by_case)


def whole_words(array: TextArray, words: tuple[str, ...]) -> Codes | None:
    """For each cell which of the words it is, white space around it aside; None where no cell is one."""
    if compiled.spaces is None:
        codes = match_whole(array, WholeMatcher(words)).codes
        return codes if (codes >= 0).any() else None
    found: Codes | None = compiled.spaces.whole_words(array, [word.encode() for word in words])
    return found


def _match_each(values: TextArray, matcher: WholeMatcher) -> tuple[Codes, Flags]:
    """Codes, and which values without one a text would match in another letter case."""
    trimmed = pc.utf8_trim(values, characters=BLANKS)
    codes = np.full(len(values), -1, np.int16)
    near = np.zeros(len(values), np.bool_)
    for number, text in enumerate(matcher.texts):
        anyhow = matches(trimmed, f"(?i)\\A{escape(text)}\\z")
        hits = anyhow if matcher.anycase else flags_of(pc.equal(trimmed, text))
        codes[hits & (codes < 0)] = number
        near |= anyhow
    for number, pattern in enumerate(matcher.patterns, len(matcher.texts)):
        codes[matches(trimmed, f"\\A(?:{pattern})\\z") & (codes < 0)] = number
    return codes, near & (codes < 0)


@cache
def _first_bytes(texts: tuple[str, ...]) -> npt.NDArray[np.bool_]:
    """The bytes that a cell may start with to match a text in any letter case, blanks around it allowed."""
    table = MAY_OPEN_BLANK.copy()
    for text in texts:
        if text:
            first = text[0]
            forms = {
                form.encode()[0] for form in (first, first.upper(), first.lower(), first.upper().lower())
            }
            table[sorted(forms)] = True
            # The Kelvin sign and the long s fold to ASCII letters.
            table[[0xE2, 0xC5]] |= first in "kKsS"
            table[0x80:] |= ord(first) >= 0x80
    return table


def _candidates(cells: TextView, texts: tuple[str, ...]) -> Flags:
    """Cells that may match in any letter case, by first byte and length; no cell that does is left out."""
    if not len(cells.data):
        return cells.only_valid(cells.lengths == 0) & ("" in texts)
    lengths = cells.lengths
    first = cells.data.take(cells.starts, mode="clip")
    longest = max((len(text.encode()) for text in texts), default=0) * 3
    flags = _first_bytes(texts)[first]
    if not flags.any() and "" not in texts:
        return flags
    final = cells.data.take(cells.ends - 1, mode="clip")
    flags &= (lengths <= longest) | MAY_OPEN_BLANK[first] | MAY_CLOSE_BLANK[final]
    flags &= lengths > 0
    if "" in texts:
        flags |= lengths == 0
    return cells.only_valid(flags)


def _match_without_blanks(array: TextArray, matcher: WholeMatcher, codes: Codes) -> Flags:
    """Short cells with white space inside that would match without any."""
    found = np.zeros(len(array), np.bool_)
    cells = view(array)
    bare = sorted({_without_blanks(text) for text in matcher.texts} - {""})
    if not bare or not len(cells.data):
        return found
    longest = 2 * max(len(text.encode()) for text in bare) + 8
    alike = _first_bytes(tuple(bare))[cells.data.take(cells.starts, mode="clip")]
    close = cells.only_valid(alike & (cells.lengths <= longest) & (cells.lengths > 0))
    where = np.flatnonzero(close & (codes < 0))
    if not len(where):
        return found
    encoded = as_dictionary(array.take(from_numpy(where)))
    values = pc.replace_substring_regex(encoded.dictionary, pattern=f"[{BLANK_CLASS}]+", replacement="")
    wanted = pa.array(bare)
    if matcher.anycase:
        values, wanted = pc.utf8_lower(values), pc.utf8_lower(wanted)
    found[where] = flags_of(pc.is_in(values, value_set=wanted))[np.asarray(encoded.indices)]
    return found


def _without_blanks(text: str) -> str:
    return "".join(character for character in text if character not in BLANKS)
