"""Numbers by which whole rows are known again: every byte of every cell counts, and so does null."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.keys import MOST_WORDS, WORD, cell_hashes
from mangler.kernels.text.text_view import TextArray, view

Hashes = npt.NDArray[np.uint64]
LEVEL = 17
"""Another one than rows are dealt out by."""
_ODD = np.uint64(0x9E3779B97F4A7C15)
_OTHER = np.uint64(0xC2B2AE3D27D4EB4F)


def row_hashes(columns: Sequence[TextArray], count: int) -> Hashes:
    """One of 64 bits for each row. Two unlike rows have the same by a chance of about 2 to the power of -64."""
    return combined([whole_cell_hashes(column) for column in columns], count)


def combined(cells: Sequence[Hashes], count: int) -> Hashes:
    """Those of rows, from those of their cells by column."""
    out = np.full(count, _ODD, np.uint64)
    with np.errstate(over="ignore"):
        for own in cells:
            out = (out ^ (out >> np.uint64(29))) * _OTHER + own
        return out ^ (out >> np.uint64(32))


def whole_cell_hashes(column: TextArray) -> Hashes:
    """Numbers for the cells of a column, by all their bytes."""
    with np.errstate(over="ignore"):
        out = cell_hashes(column, LEVEL)
        inner = _of_inner_words(column)
        return out if inner is None else out ^ (inner * _OTHER)


def _of_inner_words(column: ColumnArray) -> Hashes | None:
    """What `hashes` leaves out of long cells; None where no cell is that long."""
    cells = view(column)
    lengths = cells.lengths.astype(np.int64)
    long = np.flatnonzero(lengths > MOST_WORDS * WORD)
    if not len(long):
        return None
    words = -(-lengths[long] // WORD) - MOST_WORDS
    first = np.concatenate(([0], np.cumsum(words)[:-1]))
    place = np.arange(int(words.sum())) - np.repeat(first, words) + MOST_WORDS
    starts = np.repeat(cells.starts.astype(np.int64)[long], words) + place * WORD
    ends = np.repeat(cells.ends.astype(np.int64)[long], words)
    data = np.zeros(len(cells.data) + WORD, np.uint8)
    data[: len(cells.data)] = cells.data
    every = np.ndarray((len(cells.data) + 1,), np.dtype("<u8"), data, strides=(1,))
    rest = np.minimum(ends - starts, WORD)
    shift = ((WORD - rest) * 8).astype(np.uint64)
    met = (every[starts] << shift) >> shift
    mixed = (met ^ (met >> np.uint64(31)) ^ (place.astype(np.uint64) * _ODD)) * _OTHER
    mixed = (mixed ^ (mixed >> np.uint64(29))) * _ODD
    out = np.zeros(len(lengths), np.uint64)
    out[long] = np.add.reduceat(mixed, first)
    return out
