"""Columns as the values that orjson writes."""

from __future__ import annotations

from decimal import Decimal
from functools import partial
from typing import Any

import numpy as np
import orjson
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ArrowType, ColumnArray
from mangler.kernels.values.format_values import format_values
from mangler.kernels.values.other_values import python_values
from mangler.kernels.values.other_values import spelled as spelled_inside
from mangler.table.stored_types import is_json


def json_values(column: ColumnArray) -> list[Any]:
    """A value for each cell. Decimals keep all their digits; what JSON has no form for is a text."""
    kind = column.type
    if pa.types.is_string(kind) or pa.types.is_large_string(kind) or pa.types.is_boolean(kind):
        return list(column.to_pylist())
    if pa.types.is_integer(kind) or pa.types.is_float64(kind):
        return list(np.asarray(column).tolist()) if not column.null_count else list(column.to_pylist())
    if pa.types.is_floating(kind):  # in the digits of the short float, and not in those of a long one
        return [None if one is None else float(one) for one in format_values(column).to_pylist()]
    if pa.types.is_decimal(kind):
        return [None if one is None else orjson.Fragment(one) for one in format_values(column).to_pylist()]
    if is_json(kind):
        return [None if one is None else orjson.Fragment(one) for one in column.storage.to_pylist()]
    if pa.types.is_dictionary(kind):
        return json_values(column.dictionary_decode())
    if _is_plain_list(kind):
        return list(column.to_pylist())
    if pa.types.is_struct(kind):
        names = [field.name for field in kind]
        parts = [json_values(part) for part in column.flatten()]
        valid = np.asarray(column.is_valid()).tolist()
        rows = zip(*parts, strict=True) if parts else [()] * len(column)
        return [
            dict(zip(names, row, strict=True)) if there else None
            for there, row in zip(valid, rows, strict=True)
        ]
    if pa.types.is_nested(kind):
        return python_values(column)
    return list(format_values(column).to_pylist())


def _is_plain_list(kind: ArrowType) -> bool:
    if not (pa.types.is_list(kind) or pa.types.is_large_list(kind) or pa.types.is_fixed_size_list(kind)):
        return False
    inner = kind.value_type
    tests = (pa.types.is_string, pa.types.is_integer, pa.types.is_float64, pa.types.is_boolean)
    return any(is_such(inner) for is_such in tests)


def without_form(column: ColumnArray) -> int:
    """How many cells are infinite, or no number: JSON has no form for them, and null is written."""
    if not pa.types.is_floating(column.type):
        return 0
    finite = pc.is_finite(column.cast(pa.float64()) if column.type == pa.float16() else column)
    return int(pc.sum(pc.invert(finite)).as_py() or 0)


def spelled(value: Any) -> Any:
    """What orjson does not know, inside of nested values."""
    return orjson.Fragment(format(value, "f")) if isinstance(value, Decimal) else spelled_inside(value)


DUMP = partial(orjson.dumps, default=spelled)
"""A value as JSON, without a line break."""
