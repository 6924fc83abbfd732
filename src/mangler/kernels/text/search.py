"""Whether cells hold a text, or are one of a few texts, on the column's bytes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import Flags, TextArray, cells_at, view

FEW = 8
"""Up to so many texts are each compared with the cells of their length; more are looked up by hash."""


def holds(array: TextArray, text: str) -> Flags:
    """Whether the text is anywhere in each cell; off for nulls."""
    wanted = np.frombuffer(text.encode(), np.uint8)
    cells = view(array)
    if len(wanted) == 0:
        return cells.only_valid(np.ones(len(array), np.bool_))
    flags = np.zeros(len(array), np.bool_)
    span = len(cells.data) - len(wanted) + 1
    if span <= 0:
        return flags
    # First and last byte are compared everywhere, the others only where both agree.
    hit = cells.data[:span] == wanted[0]
    if len(wanted) > 1:
        hit &= cells.data[len(wanted) - 1 :] == wanted[-1]
    found = np.flatnonzero(hit)
    for offset in range(1, len(wanted) - 1):
        found = found[cells.data[found + offset] == wanted[offset]]
    at = cells_at(cells.offsets, found)
    inside = found + len(wanted) <= cells.ends[at]
    flags[at[inside]] = True
    return cells.only_valid(flags)


def is_one_of(array: TextArray, texts: Sequence[str]) -> Flags:
    """Whether each cell equals one of the texts; off for nulls."""
    if len(texts) > FEW:
        return flags_of(pc.is_in(array, value_set=pa.array(texts, pa.string())))
    cells = view(array)
    flags = np.zeros(len(array), np.bool_)
    starts, lengths = cells.starts, cells.lengths
    for text in texts:
        wanted = text.encode()
        rows = np.flatnonzero(lengths == len(wanted))
        positions = starts[rows]
        for offset, byte in enumerate(wanted):
            same = cells.data[positions + offset] == byte
            if not same.all():
                rows, positions = rows[same], positions[same]
        flags[rows] = True
    return cells.only_valid(flags)
