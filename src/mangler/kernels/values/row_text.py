"""Rows of typed columns as texts: one JSON object for each."""

from __future__ import annotations

import json
from typing import Any

import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import TextArray
from mangler.kernels.values.format_values import format_values

PLAIN = (pa.types.is_boolean, pa.types.is_integer)


def row_texts(records: Any) -> TextArray:
    """`{"kiln":"007","fired_on":"2026-05-04"}` for each row of a record batch; columns that are null are null."""
    names = [json.dumps(name, ensure_ascii=False) for name in records.schema.names]
    columns = [_spelled(column) for column in records.columns]
    rows = zip(*columns, strict=True) if columns else [()] * records.num_rows
    texts = ["{" + ",".join(f"{n}:{cell}" for n, cell in zip(names, row, strict=True)) + "}" for row in rows]
    return pa.array(texts, pa.string())


def _spelled(column: ColumnArray) -> list[str]:
    """Each cell as JSON has it."""
    cells = format_values(column).to_pylist() if not _is_list(column) else column.to_pylist()
    if any(is_plain(column.type) for is_plain in PLAIN):
        return ["null" if cell is None else cell for cell in cells]
    return [json.dumps(cell, ensure_ascii=False, default=str) for cell in cells]


def _is_list(column: ColumnArray) -> bool:
    return bool(pa.types.is_list(column.type) and pa.types.is_string(column.type.value_type))
