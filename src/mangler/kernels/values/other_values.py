"""Values of types that steps do not work on, as texts: bytes in hexadecimal, spans of time in ISO 8601, else JSON."""

from __future__ import annotations

import json
from datetime import timedelta
from decimal import Decimal
from typing import Any

import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import TextArray

NANOSECONDS = {"s": 1_000_000_000, "ms": 1_000_000, "us": 1_000, "ns": 1}
SECOND = 1_000_000_000


def format_others(array: ColumnArray) -> TextArray:
    """A column of any type as text; nulls stay null."""
    kind = array.type
    if is_uuid(array):
        return pa.array([None if one is None else str(one) for one in array.to_pylist()], pa.string())
    if pa.types.is_duration(kind):
        numbers = array.cast(pa.int64()).to_pylist()
        unit = NANOSECONDS[kind.unit]
        return pa.array(
            [None if one is None else span_text(0, 0, one * unit) for one in numbers], pa.string()
        )
    return pa.array([None if one is None else _text(one) for one in _values(array)], pa.string())


def is_uuid(array: ColumnArray) -> bool:
    return isinstance(array.type, pa.BaseExtensionType) and "arrow.uuid" in str(array.type)


def _values(array: ColumnArray) -> list[Any]:
    """The values in Python's types. Maps come as pairs, so that a key twice stays."""
    return [value.as_py() if value.is_valid else None for value in array]


def _text(value: Any) -> str:
    if isinstance(value, bytes):
        return value.hex()
    if isinstance(value, Decimal):
        return format(value, "f")
    if isinstance(value, pa.MonthDayNano):
        return span_text(value.months, value.days, value.nanoseconds)
    if isinstance(value, str):
        return value
    return json.dumps(value, ensure_ascii=False, separators=(",", ":"), default=_spelled)


def _spelled(value: Any) -> Any:
    """What JSON has no form for, as a text."""
    if isinstance(value, Decimal):
        return str(value)
    if isinstance(value, timedelta):
        return span_text(0, 0, (value.days * 86_400 + value.seconds) * SECOND + value.microseconds * 1_000)
    return value.isoformat() if hasattr(value, "isoformat") else _text(value)


def span_text(months: int, days: int, nanoseconds: int) -> str:
    """`P1M2DT1.5S`; negative parts have their sign."""
    seconds, rest = divmod(abs(nanoseconds), SECOND)
    fraction = f".{rest:09d}".rstrip("0") if rest else ""
    sign = "-" if nanoseconds < 0 else ""
    out = "P" + (f"{months}M" if months else "") + (f"{days}D" if days else "")
    if nanoseconds or out == "P":
        out += f"T{sign}{seconds}{fraction}S"
    return out
