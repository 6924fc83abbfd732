"""Moments and times of day as text, in ISO 8601, with no digit more than they need."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import TextArray, build, valid_flags

YEAR_1, YEAR_10000 = -62_135_596_800, 253_402_300_800
"""Their first seconds."""
MOST_AT_ONCE = 1 << 25
"""Cells that the kernel writes at once: the bytes of so many have places of 32 bits. Arrow refuses more by itself."""
PER_SECOND = {"s": 1, "ms": 1_000, "us": 1_000_000, "ns": 1_000_000_000}


def format_times(array: ColumnArray) -> TextArray:
    """A column of timestamps or of times of day as text; nulls stay null. A zone gives each its offset."""
    written = _compiled(array)
    if written is not None:
        return written
    whole = _whole_seconds(array)
    spelled = pc.replace_substring(pc.cast(array if whole is None else whole, pa.string()), " ", "T")
    if pa.types.is_timestamp(array.type) and array.type.tz is not None:
        return _with_offset(spelled)
    return spelled if whole is not None else _without_empty_fraction(spelled)


def _compiled(array: ColumnArray) -> TextArray | None:
    """Timestamps of whole seconds without a zone, of years that have four digits; None for others."""
    kind = array.type
    if compiled.spelled is None or not pa.types.is_timestamp(kind) or kind.tz is not None:
        return None
    if len(array) > MOST_AT_ONCE:
        return None
    valid = valid_flags(array)
    numbers = np.asarray(pc.fill_null(array.cast(pa.int64()), 0))
    seconds, fraction = np.divmod(numbers, PER_SECOND[kind.unit])
    if fraction.any() or seconds.min(initial=0) < YEAR_1 or seconds.max(initial=0) >= YEAR_10000:
        return None
    nulls = np.zeros(len(array), np.uint8) if valid is None else (~valid).view(np.uint8)
    content, offsets = compiled.spelled.moments(seconds, nulls)
    return build(content, offsets, valid)


def _whole_seconds(array: ColumnArray) -> ColumnArray | None:
    """The column in seconds, which Arrow spells without a fraction; None where a value is none of whole seconds."""
    kind = array.type
    numbers = np.asarray(pc.fill_null(array.cast(pa.int32() if kind.bit_width == 32 else pa.int64()), 0))
    if (numbers % PER_SECOND[kind.unit]).any():
        return None
    seconds = pa.timestamp("s", kind.tz) if pa.types.is_timestamp(kind) else pa.time32("s")
    return pc.cast(array, seconds)


def _with_offset(array: TextArray) -> TextArray:
    """`2026-05-04T09:30:00+02:00`"""
    short = pc.replace_substring_regex(array, pattern=r"(\.[0-9]*?)0*(Z|[+-][0-9]{4})$", replacement=r"\1\2")
    plain = pc.replace_substring_regex(short, pattern=r"\.(Z|[+-])", replacement=r"\1")
    return pc.replace_substring_regex(plain, pattern=r"([+-][0-9]{2})([0-9]{2})$", replacement=r"\1:\2")


def _without_empty_fraction(array: TextArray) -> TextArray:
    short = pc.replace_substring_regex(array, pattern=r"(\.[0-9]*?)0+$", replacement=r"\1")
    return pc.replace_substring_regex(short, pattern=r"\.$", replacement="")
