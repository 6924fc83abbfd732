"""A text column as the values that it has, and for each cell the number of its value."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.secrets_of_hashes import SECRETS
from mangler.kernels.taking import take
from mangler.kernels.text.text_view import Offsets, valid_flags

Counts = npt.NDArray[np.int64]


def as_dictionary(column: ColumnArray, with_nulls: bool = False) -> ColumnArray:
    """The column as Arrow's dictionary type: values in the order in which they come first, without nulls.

    `with_nulls`: null is a value as others are. A column of few texts is distinguished in a fifth of Arrow's time, one
    of many by hashes of 128 bits in half of it.
    """
    found = _numbered(column, with_nulls)
    if found is not None:
        return _of_numbers(column, found, with_nulls)
    return column.dictionary_encode(null_encoding="encode" if with_nulls else "mask")


def has_more_values(column: ColumnArray, most: int) -> bool:
    """Whether a column has more than so many values; null is none."""
    found = _distinguished(column, False)
    return len(as_dictionary(column).dictionary if found is None else found[1]) > most


def few_values(column: ColumnArray, with_nulls: bool = False) -> ColumnArray | None:
    """The same where that costs little; None for other columns, also where the kernel is not there."""
    found = _distinguished(column, with_nulls)
    return None if found is None else _of_numbers(column, found, with_nulls)


def counted(column: ColumnArray) -> tuple[ColumnArray, Counts]:
    """The values of a column, in the order in which they come first, and how many cells have each; without nulls."""
    found = _numbered(column, False)
    if found is not None and len(found[1]):
        counts = np.bincount(found[0], minlength=len(found[1])).astype(np.int64)
        counts[0] -= column.null_count  # a null has the number of the first
        return take(column, found[1].astype(np.int64)), counts
    encoded = column.dictionary_encode()
    codes, values = encoded.indices, encoded.dictionary
    counts = np.bincount(np.asarray(codes.drop_null() if column.null_count else codes), minlength=len(values))
    return values, counts.astype(np.int64)


def _distinguished(column: ColumnArray, with_nulls: bool) -> tuple[Offsets, Offsets] | None:
    """The number of each cell's value, and the first cell of each; None without the kernel, or where they are many."""
    if compiled.looks is None or not pa.types.is_string(column.type) or not isinstance(column, pa.Array):
        return None
    found: tuple[Offsets, Offsets] | None = compiled.looks.distinct(column, with_nulls)
    return found


def _numbered(column: ColumnArray, with_nulls: bool) -> tuple[Offsets, Offsets] | None:
    """The same for any number of values; None without the kernel."""
    found = _distinguished(column, with_nulls)
    if found is not None or compiled.seen is None or not pa.types.is_string(column.type):
        return found
    if not isinstance(column, pa.Array):
        return None
    codes, first = compiled.seen.numbered(*compiled.seen.hashed([column], len(column), SECRETS))
    if column.null_count and not with_nulls:
        nulls = np.asarray(column.is_null())
        of_null = int(codes[nulls.argmax()])
        first = np.delete(first, of_null)
        codes -= codes > of_null
        codes[nulls] = 0
    return codes.astype(np.int32), first


def _of_numbers(column: ColumnArray, found: tuple[Offsets, Offsets], with_nulls: bool) -> ColumnArray:
    """`found`: the number of each cell's value, and the first cell of each value."""
    codes, first = found
    bitmap = None
    if column.null_count and not with_nulls:
        flags = valid_flags(column)
        bitmap = None if flags is None else pa.py_buffer(np.packbits(flags, bitorder="little"))
    numbers = pa.Array.from_buffers(pa.int32(), len(column), [bitmap, pa.py_buffer(codes)])
    return pa.DictionaryArray.from_arrays(numbers, take(column, first.astype(np.int64)), safe=False)
