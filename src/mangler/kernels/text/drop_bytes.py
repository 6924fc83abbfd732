"""Characters taken out of cells by class: ASCII on the bytes, other letters by pattern."""

from __future__ import annotations

from functools import cache

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.patterns import matches
from mangler.kernels.text.text_view import Flags, TextArray, cells_at, view, with_text


@cache
def ascii_table(pattern: str) -> Flags:
    """Which of the bytes stay, when what the pattern matches goes; those beyond ASCII stay here."""
    characters = pa.array([chr(byte) for byte in range(128)])
    return np.concatenate([~matches(characters, pattern), np.ones(128, np.bool_)])


def drop(array: TextArray, pattern: str) -> tuple[TextArray, Flags]:
    """The column without the characters that a pattern of one class matches, and which cells changed."""
    cells = view(array)
    stay = ascii_table(pattern)[cells.data]
    wide = cells.data >= 0x80
    by_pattern = np.zeros(len(array), np.bool_)
    if wide.any():
        by_pattern[cells_at(cells.offsets, np.flatnonzero(wide))] = True
        by_pattern = cells.only_valid(by_pattern)
    if stay.all():
        out, changed = array, np.zeros(len(array), np.bool_)
    else:
        kept = np.zeros(len(cells.data) + 1, np.int32)
        np.cumsum(stay, out=kept[1:])
        offsets = kept[cells.offsets]
        out = with_text(array, cells.data[stay], offsets)
        changed = cells.only_valid(np.diff(offsets) != cells.lengths)
    if by_pattern.any():
        flags = from_numpy(by_pattern)
        before = array.filter(flags)
        after = pc.replace_substring_regex(before, pattern=pattern, replacement="")
        differs = np.asarray(pc.not_equal(before, after))
        changed[by_pattern] = differs
        out = pc.replace_with_mask(out, flags, after)
    return (out, changed) if changed.any() else (array, changed)
