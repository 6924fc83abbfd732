"""Arrow's border: pyarrow ships no types, so its objects have names of ours here."""

from __future__ import annotations

from typing import Any, TypeAlias

import numpy as np
import numpy.typing as npt
import pyarrow as pa

ColumnArray: TypeAlias = Any
"""A pyarrow array: the cells of a column, of any type."""
ArrowType: TypeAlias = Any
"""A pyarrow data type."""
Scalar: TypeAlias = Any
"""A pyarrow scalar, or a value of a cell in Python's types."""


def from_numpy(
    values: npt.NDArray[Any], kind: ArrowType = None, nulls: npt.NDArray[np.bool_] | None = None
) -> ColumnArray:
    """A column of NumPy's flags or numbers, which may share their memory; null where `nulls` flags it.

    `kind` is another type of as many bytes a value, as a moment has that is kept as a number. `pyarrow.array` does the
    same, but loads NumPy's masked arrays first, which stops all threads for 25 ms of every run; and it takes four times
    as long for flags.
    """
    bitmap = (
        None if nulls is None or not nulls.any() else pa.py_buffer(np.packbits(~nulls, bitorder="little"))
    )
    if values.dtype == np.bool_:
        content = np.packbits(values, bitorder="little")
        return pa.Array.from_buffers(pa.bool_(), len(values), [bitmap, pa.py_buffer(content)])
    kind = pa.from_numpy_dtype(values.dtype) if kind is None else kind
    if kind.bit_width != values.dtype.itemsize * 8:
        raise TypeError(f"{values.dtype} is not kept as {kind}")
    return pa.Array.from_buffers(kind, len(values), [bitmap, pa.py_buffer(np.ascontiguousarray(values))])
