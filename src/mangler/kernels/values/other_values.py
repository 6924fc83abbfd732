"""Values of types that steps do not work on, as texts: bytes in hexadecimal, spans of time in ISO 8601, else JSON."""

from __future__ import annotations

import json
from datetime import timedelta
from decimal import Decimal
from typing import Any

import pyarrow as pa

from mangler.kernels.arrow import ArrowType, ColumnArray
from mangler.kernels.text.text_view import TextArray
from mangler.kernels.values.time_text import format_times

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
    return pa.array([None if one is None else _text(one) for one in python_values(array)], pa.string())


def is_uuid(array: ColumnArray) -> bool:
    return isinstance(array.type, pa.BaseExtensionType) and "arrow.uuid" in str(array.type)


def python_values(array: ColumnArray) -> list[Any]:
    """The values in Python's types, also nested ones. Maps come as pairs, so that a key twice stays.

    Python's times have no nanoseconds: values of types that have them come as texts.
    """
    kind = array.type
    if not _has_nanoseconds(kind):
        return list(array.to_pylist())
    if pa.types.is_dictionary(kind):
        return python_values(array.dictionary_decode())
    if pa.types.is_struct(kind):
        parts = [python_values(part) for part in array.flatten()]
        rows = [dict(zip(kind.names, cells, strict=True)) for cells in zip(*parts, strict=True)]
        return [row if there else None for row, there in zip(rows, array.is_valid().to_pylist(), strict=True)]
    if pa.types.is_nested(kind):
        return [_inside(cell) if cell.is_valid else None for cell in array]
    if pa.types.is_duration(kind):
        return list(format_others(array).to_pylist())
    return list(format_times(array).to_pylist())


def _inside(cell: Any) -> Any:
    """One list or map, of values with nanoseconds."""
    if not pa.types.is_map(cell.type):
        return python_values(cell.values)
    entries = cell.values
    return list(zip(python_values(entries.field(0)), python_values(entries.field(1)), strict=True))


def _has_nanoseconds(kind: ArrowType) -> bool:
    if pa.types.is_dictionary(kind):
        return _has_nanoseconds(kind.value_type)
    if pa.types.is_nested(kind):
        return any(_has_nanoseconds(kind.field(index).type) for index in range(kind.num_fields))
    return getattr(kind, "unit", "") == "ns"


def _text(value: Any) -> str:
    if isinstance(value, bytes):
        return value.hex()
    if isinstance(value, Decimal):
        return format(value, "f")
    if isinstance(value, pa.MonthDayNano):
        return span_text(value.months, value.days, value.nanoseconds)
    if isinstance(value, str):
        return value
    return json.dumps(value, ensure_ascii=False, separators=(",", ":"), default=spelled)


def spelled(value: Any) -> Any:
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
