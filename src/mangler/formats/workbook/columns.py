"""Cells of a sheet as columns of one type each: numbers, dates, true and false, texts."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, time, timedelta
from enum import Enum
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.values.format_values import format_values

EXACT = 2.0**53


class Kind(Enum):
    """What the cells of a column are. `WHOLE` are numbers without a fraction that a float holds exactly."""

    WHOLE = "whole numbers"
    NUMBER = "numbers"
    TRUTH = "true or false"
    DATE = "dates"
    MOMENT = "dates with times"
    TIME = "times"
    SPAN = "spans of time"
    TEXT = "texts"


TYPES = {
    Kind.WHOLE: pa.int64(),
    Kind.NUMBER: pa.float64(),
    Kind.TRUTH: pa.bool_(),
    Kind.DATE: pa.date32(),
    Kind.MOMENT: pa.timestamp("us"),
    Kind.TIME: pa.time64("us"),
    Kind.SPAN: pa.string(),
    Kind.TEXT: pa.string(),
}
KIND_OF = {
    float: Kind.NUMBER,
    int: Kind.NUMBER,
    bool: Kind.TRUTH,
    date: Kind.DATE,
    datetime: Kind.MOMENT,
    time: Kind.TIME,
    timedelta: Kind.SPAN,
    str: Kind.TEXT,
}


def built(cells: Sequence[Any]) -> tuple[ColumnArray, set[Kind]]:
    """Some cells of a column, and what kinds they are; an empty text is null."""
    kinds = {KIND_OF[kind] for kind in set(map(type, cells)) - {str, type(None)}}
    values = [None if cell == "" else cell for cell in cells] if str in set(map(type, cells)) else list(cells)
    if str in set(map(type, values)):
        kinds.add(Kind.TEXT)
    if kinds == {Kind.NUMBER}:
        numbers = pa.array(values, pa.float64())
        return numbers, {Kind.WHOLE if _is_whole(numbers) else Kind.NUMBER}
    if kinds == {Kind.DATE, Kind.MOMENT}:
        values = [datetime(v.year, v.month, v.day) if type(v) is date else v for v in values]
        return pa.array(values, TYPES[Kind.MOMENT]), {Kind.MOMENT}
    if len(kinds) == 1 and not kinds & {Kind.SPAN}:
        return pa.array(values, TYPES[next(iter(kinds))]), kinds
    return pa.array([None if value is None else spelled(value) for value in values], pa.string()), kinds


def _is_whole(numbers: ColumnArray) -> bool:
    values = np.asarray(numbers.drop_null())
    return bool(np.all((values == np.floor(values)) & (np.abs(values) <= EXACT)))


def spelled(value: Any) -> str:
    """A cell as text: a number as short as it can be, dates and times in ISO 8601."""
    if type(value) is str:
        return value
    if value is True or value is False:
        return "true" if value else "false"
    if isinstance(value, int):  # the older binary format has whole numbers
        return str(value)
    if isinstance(value, float):
        return str(int(value)) if value.is_integer() and abs(value) <= EXACT else repr(value)
    if isinstance(value, timedelta):
        seconds, part = divmod(round(value.total_seconds() * 1000), 1000)
        sign, seconds = ("-", -seconds) if seconds < 0 else ("", seconds)
        text = f"{sign}{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}"
        return f"{text}.{part:03d}".rstrip("0") if part else text
    return str(value.isoformat())


def type_for(kinds: set[Kind]) -> Any:
    """The type of a column of such cells."""
    if not kinds:
        return pa.string()
    if len(kinds) == 1:
        return TYPES[next(iter(kinds))]
    if kinds == {Kind.WHOLE, Kind.NUMBER}:
        return pa.float64()
    return pa.timestamp("us") if kinds == {Kind.DATE, Kind.MOMENT} else pa.string()


def adapted(array: ColumnArray, target: Any) -> ColumnArray:
    """Cells that were built by themselves as part of a column of this type."""
    if array.type == target:
        return array
    if pa.types.is_string(target):
        return _as_text(array)
    return pc.cast(array, target)


def _as_text(array: ColumnArray) -> ColumnArray:
    if pa.types.is_floating(array.type):
        return pa.array([None if one is None else spelled(one) for one in array.to_pylist()], pa.string())
    return format_values(array)
