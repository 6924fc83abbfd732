"""Moments and times of day as text, in ISO 8601, with no digit more than they need."""

from __future__ import annotations

import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import TextArray


def format_times(array: ColumnArray) -> TextArray:
    """A column of timestamps or of times of day as text; nulls stay null. A zone gives each its offset."""
    spelled = pc.replace_substring(pc.cast(array, pa.string()), " ", "T")
    in_a_zone = pa.types.is_timestamp(array.type) and array.type.tz is not None
    return _with_offset(spelled) if in_a_zone else _without_empty_fraction(spelled)


def _with_offset(array: TextArray) -> TextArray:
    """`2026-05-04T09:30:00+02:00`"""
    short = pc.replace_substring_regex(array, pattern=r"(\.[0-9]*?)0*(Z|[+-][0-9]{4})$", replacement=r"\1\2")
    plain = pc.replace_substring_regex(short, pattern=r"\.(Z|[+-])", replacement=r"\1")
    return pc.replace_substring_regex(plain, pattern=r"([+-][0-9]{2})([0-9]{2})$", replacement=r"\1:\2")


def _without_empty_fraction(array: TextArray) -> TextArray:
    short = pc.replace_substring_regex(array, pattern=r"(\.[0-9]*?)0+$", replacement=r"\1")
    return pc.replace_substring_regex(short, pattern=r"\.$", replacement="")
