"""The letter case of texts: which have letters, and which are lower, upper or capitalized."""

from __future__ import annotations

import numpy as np
import pyarrow.compute as pc

from mangler.kernels import compiled
from mangler.kernels.text.patterns import matches
from mangler.kernels.text.text_view import Flags, Offsets, TextArray, view

CASES = ("lower", "upper", "title", "mixed")
"""Of a text that is written as several of them, the first counts: a single letter as `upper` and `title`."""
LETTERS = r"\p{L}"
NOT_ASCII = 0x80


def letter_cases(array: TextArray) -> dict[str, Flags]:
    """For each of `CASES` which texts are in it; no text without a letter is in any. No cell is null.

    `title` is a text whose first character is not lower and no other is upper.
    """
    if not len(array):
        return {case: np.zeros(0, np.bool_) for case in CASES}
    if compiled.looks is not None:
        codes = compiled.looks.letter_cases(array)
        return _of_any(array) if codes is None else {case: codes == at for at, case in enumerate(CASES, 1)}
    if view(array).data.max(initial=0) >= NOT_ASCII:
        return _of_any(array)
    cells = view(array)
    is_upper = (cells.data >= ord("A")) & (cells.data <= ord("Z"))
    is_lower = (cells.data >= ord("a")) & (cells.data <= ord("z"))
    uppers, lowers = _per_cell(is_upper, cells.offsets), _per_cell(is_lower, cells.offsets)
    first = np.minimum(cells.starts, max(0, len(cells.data) - 1))
    filled = cells.lengths > 0
    later = uppers - (filled & is_upper[first]) if len(cells.data) else uppers
    opens_lower = filled & is_lower[first] if len(cells.data) else filled
    return _by_first(uppers + lowers > 0, [uppers == 0, lowers == 0, (later == 0) & ~opens_lower])


def _per_cell(flags: Flags, offsets: Offsets) -> Offsets:
    """How many flags of its bytes are set for each cell."""
    before = np.zeros(len(flags) + 1, np.int32)
    np.cumsum(flags, out=before[1:])
    return np.diff(before[offsets])


def _of_any(array: TextArray) -> dict[str, Flags]:
    """By Unicode's cases. To prepare its pattern of letters takes as long as to look at thousands of cells."""
    has_letters = matches(array, LETTERS)
    changed = [case(array) for case in (pc.utf8_lower, pc.utf8_upper, pc.utf8_capitalize)]
    return _by_first(has_letters, [np.asarray(pc.equal(one, array)) for one in changed])


def _by_first(rest: Flags, written: list[Flags]) -> dict[str, Flags]:
    found: dict[str, Flags] = {}
    for case, flags in zip(CASES, written, strict=False):
        found[case] = flags & rest
        rest = rest & ~flags
    found[CASES[-1]] = rest
    return found
