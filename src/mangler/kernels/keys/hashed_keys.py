"""Keys of rows as 128 bits of a hash, by the compiled kernel: what makes the numbers of keys, and those that were seen.

Among a thousand million keys two different ones are taken for the same with a chance of less than one in 10^20.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeAlias

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.secrets_of_hashes import SECRETS
from mangler.kernels.text.text_view import LARGEST_COLUMN, build, valid_flags
from mangler.kernels.values.spelled import spelled

Rows: TypeAlias = npt.NDArray[np.int64]
Hashes: TypeAlias = tuple[npt.NDArray[np.uint64], npt.NDArray[np.uint64]]
"""The halves of 128 bits, for each key."""


def hashes_of(columns: Sequence[ColumnArray], count: int) -> Hashes:
    """Of the cells of each row, all columns together; null is a value like others."""
    assert compiled.seen is not None
    found: Hashes = compiled.seen.hashed([_with_bytes(column) for column in columns], count, SECRETS)
    return found


def numbered(hashes: Hashes) -> tuple[Rows, Rows]:
    """The number of each row's key, in the order in which they come first, and the row that has each first."""
    assert compiled.seen is not None
    found: tuple[Rows, Rows] = compiled.seen.numbered(*hashes)
    return found


def _with_bytes(column: ColumnArray) -> ColumnArray:
    """A column of texts that differ where the cells do: numbers and moments as their bytes."""
    kind = column.type
    if pa.types.is_string(kind):
        return column
    if not pa.types.is_primitive(kind) or pa.types.is_boolean(kind):
        return spelled(column)
    width, end = kind.bit_width // 8, column.offset + len(column)
    if end * width > LARGEST_COLUMN:
        return spelled(column)
    # Of the cells alone, and not of all before them: a column may be looked at slice by slice.
    offsets = np.arange(column.offset, end + 1, dtype=np.int32) * np.int32(width)
    content = column.buffers()[1]
    return build(b"" if content is None else content, offsets, valid_flags(column))
