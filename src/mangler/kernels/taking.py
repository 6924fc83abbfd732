"""Cells of a column by their places."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray, from_numpy

Places = npt.NDArray[np.int64]


def take(column: ColumnArray, places: Places) -> ColumnArray:
    """The cells at these places, from 0, in this order.

    Raises an error of Arrow's where a column has no room for so many bytes of text.
    """
    if compiled.rows is not None and pa.types.is_string(column.type):
        found = compiled.rows.taken(column, np.ascontiguousarray(places, np.int64))
        if found is not None:
            content, offsets, valid = found
            buffers = [None if part is None else pa.py_buffer(part) for part in (valid, offsets, content)]
            return pa.Array.from_buffers(pa.string(), len(places), buffers)
    return column.take(from_numpy(places))
