"""A text column's buffers as NumPy arrays, and columns made from such arrays.

Arrow keeps a text column as one run of UTF-8 bytes with the offset at which each cell starts. Null cells may
have bytes too: whoever counts or flags cells masks them with `valid`.
"""

from __future__ import annotations

from functools import cached_property
from typing import Any, TypeAlias

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.late_dataclass import dataclass

Bytes: TypeAlias = npt.NDArray[np.uint8]
Flags: TypeAlias = npt.NDArray[np.bool_]
Offsets: TypeAlias = npt.NDArray[np.int32]
Positions: TypeAlias = npt.NDArray[np.intp]
TextArray: TypeAlias = ColumnArray
"""A pyarrow StringArray."""

LARGEST_COLUMN = 2**31 - 1
"""Bytes that a text column of Arrow can hold; kernels that grow text check before they do."""


class TooLargeError(Exception):
    """A text column would grow beyond what 32-bit offsets can hold."""


@dataclass(frozen=True)
class TextView:
    """`data[offsets[i]:offsets[i + 1]]` is cell i."""

    data: Bytes
    offsets: Offsets
    array: TextArray

    @cached_property
    def valid(self) -> Flags | None:
        """One flag a cell, off where it is null; None when no cell is."""
        return valid_flags(self.array)

    @property
    def starts(self) -> Offsets:
        return self.offsets[:-1]

    @property
    def ends(self) -> Offsets:
        return self.offsets[1:]

    @property
    def lengths(self) -> Offsets:
        return np.subtract(self.ends, self.starts)

    def only_valid(self, flags: Flags) -> Flags:
        """The flags, with those of null cells off."""
        if not self.array.null_count or not flags.any():
            return flags
        return flags if self.valid is None else flags & self.valid


def view(array: TextArray) -> TextView:
    """The buffers of a text column. `data` starts at the first cell: offsets start at 0."""
    count = len(array)
    _, offset_buffer, data_buffer = array.buffers()
    if count == 0 or offset_buffer is None:
        return TextView(np.zeros(0, np.uint8), np.zeros(count + 1, np.int32), array)
    offsets = np.frombuffer(offset_buffer, np.int32, count + 1, array.offset * 4)
    first, last = int(offsets[0]), int(offsets[-1])
    data = (
        np.frombuffer(data_buffer, np.uint8, last - first, first)
        if data_buffer is not None and last > first
        else np.zeros(0, np.uint8)
    )
    return TextView(data, offsets - np.int32(first) if first else offsets, array)


def valid_flags(array: ColumnArray) -> Flags | None:
    """One flag a cell, off where it is null; None when no cell is."""
    if array.null_count == 0:
        return None
    bitmap = np.frombuffer(array.buffers()[0], np.uint8)
    skip = array.offset // 8
    bits = np.unpackbits(bitmap[skip:], bitorder="little", count=array.offset % 8 + len(array))
    return bits[array.offset % 8 :].view(np.bool_)


def build(data: Bytes | bytes, offsets: Offsets, valid: Flags | None) -> TextArray:
    """A text column of these bytes and offsets."""
    bitmap = None if valid is None or valid.all() else pa.py_buffer(np.packbits(valid, bitorder="little"))
    return pa.Array.from_buffers(
        pa.string(), len(offsets) - 1, [bitmap, pa.py_buffer(offsets), pa.py_buffer(data)]
    )


def with_text(array: TextArray, data: Bytes | bytes, offsets: Offsets) -> TextArray:
    """A column of other bytes with the nulls of this one."""
    if array.null_count and array.offset % 8 == 0:
        bitmap = array.buffers()[0].slice(array.offset // 8)
        return pa.Array.from_buffers(
            pa.string(), len(array), [bitmap, pa.py_buffer(offsets), pa.py_buffer(data)], array.null_count
        )
    return build(data, offsets, valid_flags(array))


def with_nulls(array: TextArray, nulls: Flags) -> TextArray:
    """The column with these cells null too; the bytes are shared, only the bitmap is new."""
    cells = view(array)
    valid = ~nulls if cells.valid is None else cells.valid & ~nulls
    return build(cells.data, cells.offsets, valid)


def cells_at(offsets: Offsets, positions: Positions) -> Positions:
    """The cell that each byte position lies in."""
    return np.searchsorted(offsets, positions, side="right") - 1


def count_distinct_sorted(values: npt.NDArray[Any]) -> int:
    """How many different values a sorted array has."""
    return 0 if len(values) == 0 else int(np.count_nonzero(values[1:] != values[:-1])) + 1
