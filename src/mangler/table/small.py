"""Small tables of tests as columns, and columns as their cells."""

from __future__ import annotations

import numpy as np
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.values.format_values import format_values
from mangler.kernels.values.spelled import spelled
from mangler.language.tables import Cell, SmallTable
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.types import from_text


def type_of(table: SmallTable, index: int) -> ValueType:
    """The type that a head states; text where it states none."""
    return ValueType(table.heads[index].type or "text")


def schema_of(table: SmallTable) -> Schema:
    return Schema(tuple(Column(name, type_of(table, i)) for i, name in enumerate(table.names)))


def column_of(table: SmallTable, index: int) -> ColumnArray:
    """The cells of a column, in the type of its head."""
    texts = pa.array([row[index] for row in table.rows], pa.string())
    kind = type_of(table, index)
    return texts if kind is ValueType.TEXT else from_text(texts, kind).array


def problem_of(table: SmallTable, index: int) -> str:
    """What is wrong with the cells of a typed column; nothing if all is right."""
    kind, name = type_of(table, index), table.names[index]
    if kind is ValueType.LIST:
        return "a list cannot be written in a table"
    if kind is ValueType.TEXT:
        return ""
    texts = pa.array([row[index] for row in table.rows], pa.string())
    failed = np.flatnonzero(from_text(texts, kind).failed)
    return f'"{name}" is {kind}, and "{texts[int(failed[0])].as_py()}" is none' if len(failed) else ""


def cells_of(column: ColumnArray) -> list[Cell]:
    """The cells as a table spells them, whatever their type."""
    cells: list[Cell] = spelled(column).to_pylist()
    return cells


def normalised(cells: list[Cell], column: ColumnArray, kind: ValueType) -> list[Cell]:
    """Cells that are expected of a column, as its type spells them: 4.0 is 4, or 4.00 in a decimal of two places."""
    if kind in (ValueType.TEXT, ValueType.LIST):
        return cells
    texts = pa.array(cells, pa.string())
    converted = from_text(texts, kind)
    try:
        spelled = format_values(converted.array.cast(column.type)).to_pylist()
    except pa.ArrowInvalid:
        return cells  # a place more than the column has: it cannot be equal
    return [
        cell if failed else other
        for cell, other, failed in zip(cells, spelled, converted.failed, strict=True)
    ]
