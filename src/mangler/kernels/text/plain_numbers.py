"""Which cells are plain numbers, seen from their bytes alone."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from mangler.kernels.text.text_view import TextArray, view

SIGNS = np.frombuffer(b"+-", np.uint8)
POINTS = np.frombuffer(b".,", np.uint8)
NO_NUMBER, NULL = -1, -2


def whole_places(array: TextArray) -> npt.NDArray[np.int64]:
    """For each cell how many digits are before the point of its number; NO_NUMBER for other cells, NULL for nulls.

    A plain number is digits, perhaps with a sign before them, and perhaps one point or comma among them.
    """
    cells = view(array)
    starts, ends = cells.starts.astype(np.int64), cells.ends.astype(np.int64)
    data = cells.data
    if not len(data):
        return np.where(_valid(array), NO_NUMBER, NULL)
    first = data[np.minimum(starts, len(data) - 1)]
    starts = starts + ((ends > starts) & np.isin(first, SIGNS))
    other = np.flatnonzero((data < 48) | (data > 57))
    """The places of all bytes that are no digits."""
    before, until = np.searchsorted(other, starts), np.searchsorted(other, ends)
    count = until - before
    at = other[np.minimum(before, max(0, len(other) - 1))] if len(other) else np.zeros(len(starts), np.int64)
    point = (count == 1) & np.isin(data[np.minimum(at, len(data) - 1)], POINTS)
    whole = np.where(point, at, ends) - starts
    is_number = (whole > 0) & ((count == 0) | (point & (at < ends - 1)))
    return np.where(_valid(array), np.where(is_number, whole, NO_NUMBER), NULL)


def _valid(array: TextArray) -> npt.NDArray[np.bool_]:
    return np.asarray(array.is_valid())
