"""Lines with columns of a fixed width to columns: each cell is cut out of its line, and its padding taken off."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from mangler.formats.delimited.block_reader import Block
from mangler.formats.delimited.records import RETURN, Bytes, Positions
from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.text_view import TextArray, build, with_nulls

SPACE = 32


def cut_block(block: Block, widths: Sequence[int]) -> list[TextArray]:
    """The columns of all lines; the last one takes the rest of its line."""
    array, starts, ends = block.array, block.starts, block.ends
    ends = ends - ((ends > starts) & (array[np.maximum(ends - 1, 0)] == RETURN))
    ends = np.maximum(ends, starts)
    edges = _edges(array, block.data.isascii(), starts, ends, widths)
    filled_before = np.concatenate(([0], np.cumsum(array != SPACE, dtype=np.int32)))
    return [_cells(array, filled_before, left, right) for left, right in pairwise([*edges, ends])]


def _edges(
    array: Bytes, ascii_only: bool, starts: Positions, ends: Positions, widths: Sequence[int]
) -> list[Positions]:
    """Where in the bytes of each line its columns start."""
    places = np.concatenate(([0], np.cumsum(widths[:-1]))).astype(np.intp)
    if ascii_only:
        return [np.minimum(starts + place, ends) for place in places.tolist()]
    # Characters start at bytes that do not go on with one.
    first_bytes = np.append(np.flatnonzero((array & 0xC0) != 0x80), len(array))
    firsts = np.searchsorted(first_bytes, starts)
    return [
        np.minimum(first_bytes[np.minimum(firsts + place, len(first_bytes) - 1)], ends)
        for place in places.tolist()
    ]


def _cells(array: Bytes, filled_before: Positions, left: Positions, right: Positions) -> TextArray:
    """Texts from these bytes to those, without the spaces at their ends; null where nothing is left."""
    count = filled_before[right] - filled_before[left]
    blank = count == 0
    # The first byte that is no space is the one at which the count goes up; the last one, where it is reached.
    inner = filled_before[1:]
    first = np.searchsorted(inner, filled_before[left] + 1)
    last = np.searchsorted(inner, filled_before[right]) + 1
    first, last = np.where(blank, left, first), np.where(blank, left, last)
    offsets = np.stack((first, last), axis=1).ravel().astype(np.int32)
    both = build(array, np.append(offsets, offsets[-1:]), None)
    cells = both.take(from_numpy(np.arange(len(left)) * 2))
    return with_nulls(cells, blank) if blank.any() else cells
