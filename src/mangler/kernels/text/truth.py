"""Columns of true, false and null, to and from flags, a bit at a time in both directions."""

from __future__ import annotations

from typing import Any

import numpy as np
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import Flags, valid_flags


def truth_of(flags: Flags, like: Any) -> ColumnArray:
    """Flags as a boolean column, null where another column is."""
    values = pa.py_buffer(np.packbits(flags, bitorder="little"))
    valid = valid_flags(like)
    bitmap = None if valid is None else pa.py_buffer(np.packbits(valid, bitorder="little"))
    return pa.Array.from_buffers(pa.bool_(), len(flags), [bitmap, values])


def true_flags(array: ColumnArray) -> Flags:
    """Where a boolean column is true; off where it is null."""
    if len(array) == 0:
        return np.zeros(0, np.bool_)
    skip = array.offset // 8
    bitmap = np.frombuffer(array.buffers()[1], np.uint8)[skip:]
    bits = np.unpackbits(bitmap, bitorder="little", count=array.offset % 8 + len(array))
    flags: Flags = bits[array.offset % 8 :].view(np.bool_)
    valid = valid_flags(array)
    return flags if valid is None else flags & valid
