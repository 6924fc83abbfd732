from __future__ import annotations

import pyarrow as pa
import pytest

from mangler.language.source import Source
from mangler.language.tables import SmallTable, read_small_table
from mangler.table.schema import ValueType
from mangler.table.small import cells_of, column_of, normalised, problem_of, schema_of


def table(text: str) -> SmallTable:
    return read_small_table(Source("table", text))


def test_heads_state_types() -> None:
    small = table("a integer | b | c date\n 7 | 7 | 2026-05-04\nnull | null | null")
    assert [column.type for column in schema_of(small).columns] == [
        ValueType.INTEGER,
        ValueType.TEXT,
        ValueType.DATE,
    ]
    assert column_of(small, 0).to_pylist() == [7, None] and column_of(small, 1).to_pylist() == ["7", None]
    assert [problem_of(small, index) for index in range(3)] == ["", "", ""]


@pytest.mark.parametrize(
    ("text", "problem"),
    [
        ("a integer\nx", '"a" is integer, and "x" is none'),
        ("a list\nx", "a list cannot be written in a table"),
    ],
)
def test_cells_that_are_none_of_their_type(text: str, problem: str) -> None:
    assert problem_of(table(text), 0) == problem


def test_cells_of_any_type_are_spelled() -> None:
    assert cells_of(pa.array([1.50, None])) == ["1.5", None]
    assert cells_of(pa.array([["a", "b"], None, []], pa.list_(pa.string()))) == ["a; b", None, ""]


def test_expected_cells_are_spelled_as_the_column_spells_them() -> None:
    places = pa.array([], pa.decimal128(37, 2))
    assert normalised(["4", "4.0", "x", None], places, ValueType.DECIMAL) == ["4.00", "4.00", "x", None]
    assert normalised(["4.001"], places, ValueType.DECIMAL) == ["4.001"]
    assert normalised(["04"], pa.array(["x"]), ValueType.TEXT) == ["04"]
