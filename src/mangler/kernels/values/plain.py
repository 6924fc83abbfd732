"""Values of the types that expressions know: decimals without stated places, timestamps and times of microseconds."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.values.convert import DECIMAL, Converted, cast_exactly

LATEST = (1 << 63) - 1
PER_MICROSECOND = 1000
PARTS = {"s": 1_000_000, "ms": 1_000}
"""Microseconds in the coarser units of timestamps."""


def plain(array: ColumnArray) -> Converted:
    """An array as expressions see it. A timestamp of a zone is what its clock shows; parts below a microsecond go.

    A decimal of too many digits, and a timestamp too far away for microseconds, fail.
    """
    kind = array.type
    if pa.types.is_decimal(kind) and kind != DECIMAL:
        # A number of few digits has a place in any case.
        if kind.precision - kind.scale <= DECIMAL.precision - DECIMAL.scale and kind.scale <= DECIMAL.scale:
            return _fits(pc.cast(array, DECIMAL))
        return cast_exactly(array, DECIMAL)
    if pa.types.is_timestamp(kind):
        local = array if kind.tz is None else pc.local_timestamp(array)
        return _microseconds(local)
    if pa.types.is_time64(kind) and kind.unit == "ns":
        return _fits(_floored(array).cast(pa.time64("us")))
    return _fits(array)


def _fits(array: ColumnArray) -> Converted:
    return Converted(array, np.zeros(len(array), np.bool_))


def _microseconds(array: ColumnArray) -> Converted:
    unit = array.type.unit
    target = pa.timestamp("us")
    if unit == "us":
        return _fits(array)
    if unit == "ns":
        return _fits(_floored(array).cast(target))
    most = LATEST // PARTS[unit]
    numbers = array.cast(pa.int64())
    there = pc.and_(pc.less_equal(numbers, most), pc.greater_equal(numbers, -most))
    failed = ~flags_of(there) & flags_of(array.is_valid())
    return Converted(pc.cast(pc.if_else(there, array, None) if failed.any() else array, target), failed)


def _floored(array: ColumnArray) -> ColumnArray:
    """Nanoseconds as whole microseconds, downwards also before 1970; as integers."""
    numbers = array.cast(pa.int64())
    values = np.asarray(pc.fill_null(numbers, 0)) // PER_MICROSECOND
    return from_numpy(values, nulls=~flags_of(array.is_valid()) if array.null_count else None)
