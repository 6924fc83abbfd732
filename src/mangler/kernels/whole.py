"""Matching whole cells: white space around a cell is ignored, and a pattern must match all of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANK_CLASS, BLANKS
from mangler.kernels.patterns import SAMPLE, escape, flags_of, matches
from mangler.kernels.text_view import Flags, TextArray, TextView, view

Codes = npt.NDArray[np.int16]
"""For each cell the number of what it matched, -1 for nothing."""


@dataclass(frozen=True)
class WholeMatcher:
    """Texts without white space around them, and patterns in RE2's syntax; `anycase` goes for the texts."""

    texts: tuple[str, ...]
    patterns: tuple[str, ...] = ()
    anycase: bool = False


def match_whole(array: TextArray, matcher: WholeMatcher) -> Codes:
    """Which text (0, 1, …) or pattern (numbered on from the texts) each cell matches."""
    codes = np.full(len(array), -1, np.int16)
    if matcher.patterns:
        where = np.flatnonzero(np.asarray(array.is_valid()))
    else:
        where = np.flatnonzero(_candidates(view(array), matcher.texts, matcher.anycase))
    if not len(where):
        return codes
    chosen = array if len(where) == len(array) else array.take(pa.array(where))
    # Where cells recur each distinct one is looked at once.
    if len(chosen) <= SAMPLE or len(chosen.slice(0, SAMPLE).unique()) < SAMPLE // 2:
        encoded = chosen.dictionary_encode()
        codes[where] = _match_each(encoded.dictionary, matcher)[np.asarray(encoded.indices)]
    else:
        codes[where] = _match_each(chosen, matcher)
    return codes


def nearly_whole(array: TextArray, matcher: WholeMatcher, codes: Codes) -> tuple[Flags, Flags]:
    """Cells left unmatched that a text would match in another letter case, or without any white space."""
    nothing = np.zeros(len(array), np.bool_)
    if not matcher.texts:
        return nothing, nothing
    if matcher.anycase:
        by_case = nothing
    else:
        by_case = (match_whole(array, WholeMatcher(matcher.texts, (), True)) >= 0) & (codes < 0)
    return by_case, _match_without_blanks(array, matcher, codes) & ~by_case


def _match_each(values: TextArray, matcher: WholeMatcher) -> Codes:
    trimmed = pc.utf8_trim(values, characters=BLANKS)
    codes = np.full(len(values), -1, np.int16)
    for number, text in enumerate(matcher.texts):
        same = f"(?i)\\A{escape(text)}\\z"
        hits = matches(trimmed, same) if matcher.anycase else flags_of(pc.equal(trimmed, text))
        codes[hits & (codes < 0)] = number
    for number, pattern in enumerate(matcher.patterns, len(matcher.texts)):
        codes[matches(trimmed, f"\\A(?:{pattern})\\z") & (codes < 0)] = number
    return codes


_MAY_OPEN_BLANK = np.zeros(256, np.bool_)
_MAY_CLOSE_BLANK = np.zeros(256, np.bool_)
for _blank in BLANKS:
    _MAY_OPEN_BLANK[_blank.encode()[0]] = True
    _MAY_CLOSE_BLANK[_blank.encode()[-1]] = True


def _first_bytes(texts: Sequence[str], anycase: bool) -> npt.NDArray[np.bool_]:
    """The bytes that a cell may start with to match one of the texts, blanks around it allowed."""
    table = _MAY_OPEN_BLANK.copy()
    for text in texts:
        if text:
            table[text.encode()[0]] = True
            if anycase:
                table[
                    list(
                        {
                            form.encode()[0]
                            for form in (text[0].upper(), text[0].lower(), text[0].upper().lower())
                        }
                    )
                ] = True
                # The Kelvin sign and the long s fold to ASCII letters.
                table[[0xE2, 0xC5]] |= text[0] in "kKsS"
                table[0x80:] |= ord(text[0]) >= 0x80
    return table


def _candidates(cells: TextView, texts: Sequence[str], anycase: bool) -> Flags:
    """Cells that may match, by their first byte and their length; no cell that does is left out."""
    if not len(cells.data):
        return cells.only_valid(cells.lengths == 0) & ("" in texts)
    lengths = cells.lengths
    first = cells.data[np.minimum(cells.starts, len(cells.data) - 1)]
    longest = max((len(text.encode()) for text in texts), default=0) * (3 if anycase else 1)
    flags = _first_bytes(texts, anycase)[first]
    if not flags.any() and "" not in texts:
        return flags
    final = cells.data[np.maximum(cells.ends - 1, 0)]
    flags &= (lengths <= longest) | _MAY_OPEN_BLANK[first] | _MAY_CLOSE_BLANK[final]
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
    alike = _first_bytes(bare, matcher.anycase)[cells.data[np.minimum(cells.starts, len(cells.data) - 1)]]
    close = cells.only_valid(alike & (cells.lengths <= longest) & (cells.lengths > 0))
    where = np.flatnonzero(close & (codes < 0))
    if not len(where):
        return found
    encoded = array.take(pa.array(where)).dictionary_encode()
    values = pc.replace_substring_regex(encoded.dictionary, pattern=f"[{BLANK_CLASS}]+", replacement="")
    wanted = pa.array(bare)
    if matcher.anycase:
        values, wanted = pc.utf8_lower(values), pc.utf8_lower(wanted)
    found[where] = flags_of(pc.is_in(values, value_set=wanted))[np.asarray(encoded.indices)]
    return found


def _without_blanks(text: str) -> str:
    return "".join(character for character in text if character not in BLANKS)
