"""Columns of fields that are made when they are asked for, against columns that are made at once."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.blocks import batches
from tests.kernels.compiled.twins import built

from mangler.formats.delimited.parse import UNDER_WAY
from mangler.kernels.text.fields import (
    ByName,
    Columns,
    FieldColumn,
    FieldFacts,
    entries_of,
    is_unmade,
    known_of,
    taken,
    with_entries,
)
from mangler.kernels.text.openings import RISKY_OR_GUARDED, opened_by
from mangler.kernels.text.repeat import repeated_rows
from mangler.table.batch import Batch

pytestmark = built

CELL = st.sampled_from(["", '""', "a", "-", "-5", "'", "=x", '"b;c"', '"d""e"', '"-"', "é", "n" * 40])
WIDTH = 3
TABLE = st.lists(st.lists(CELL, min_size=WIDTH, max_size=WIDTH), min_size=1, max_size=20)


def read(lines: Sequence[Sequence[str]], block_size: int = 1 << 16) -> list[Batch]:
    """The batches of a table as the compiled kernel reads them."""
    data = "".join(";".join(line) + "\n" for line in lines).encode()
    return [one.batch for one in batches(data, WIDTH, ";", False, block_size)]


def cells(columns: Sequence[Any]) -> list[list[str | None]]:
    return [column.to_pylist() for column in columns]


def text_of(field: str) -> str | None:
    """What a field of the table says."""
    if field.startswith('"'):
        return field[1:-1].replace('""', '"')
    return field or None


def expected(lines: Sequence[Sequence[str]], rows: Sequence[int]) -> list[list[str | None]]:
    return [[text_of(lines[row][field]) for row in rows] for field in range(WIDTH)]


@settings(max_examples=400)
@given(TABLE, st.data())
def test_columns_are_the_same_whenever_they_are_made(lines: list[list[str]], data: st.DataObject) -> None:
    """Before rows are taken, between, or after; one by one, together, or a stretch of them."""
    [batch] = read(lines)
    columns, rows = batch.columns, list(range(len(lines)))
    for _ in range(data.draw(st.integers(0, 3))):
        for index in data.draw(st.lists(st.integers(0, WIDTH - 1), max_size=2)):
            assert columns[index].to_pylist() == expected(lines, rows)[index]
        places = data.draw(st.lists(st.integers(0, max(0, len(rows) - 1)), max_size=30 if rows else 0))
        how = data.draw(st.sampled_from([taken, repeated_rows]))
        columns, rows = how(columns, np.array(places, np.int64)), [rows[place] for place in places]
    start = data.draw(st.integers(0, len(rows)))
    count = data.draw(st.integers(0, len(rows) - start))
    every = range(WIDTH)
    if isinstance(columns, Columns):
        before = [is_unmade(one) for one in columns.entries]
        assert cells(columns.stretch(every, start, count)) == expected(lines, rows[start : start + count])
        assert [is_unmade(one) for one in columns.entries] == before
    assert cells(columns) == expected(lines, rows)
    for column in columns:
        column.validate(full=True)


@settings(max_examples=300)
@given(TABLE, st.data())
def test_what_is_known_of_columns_that_are_not_made(lines: list[list[str]], data: st.DataObject) -> None:
    [batch] = read(lines)
    columns: Sequence[Any] = batch.columns
    if data.draw(st.booleans()):
        places = data.draw(st.lists(st.integers(0, len(lines) - 1), max_size=30))
        columns = taken(columns, np.array(places, np.int64))
    known = known_of(columns)
    assert all(isinstance(one, FieldFacts) for one in known)
    for one, column in zip(known, columns, strict=True):
        assert isinstance(one, FieldFacts)
        lengths = [len(cell.encode()) for cell in column.to_pylist() if cell]
        opened = opened_by(column, RISKY_OR_GUARDED)
        assert one.nulls == column.null_count and one.size >= sum(lengths)
        assert one.risky == len([row for row in opened if column[int(row)].as_py() not in ("-", "+")])


@settings(max_examples=200)
@given(st.lists(st.sets(st.integers(0, WIDTH - 1)), min_size=1, max_size=12), TABLE)
def test_columns_that_are_asked_for_are_made_of_later_blocks_at_once(
    asked: list[set[int]], lines: list[list[str]]
) -> None:
    """What is made at once are those that were asked for of the block some before; the cells are the same."""
    text = "".join(";".join(line) + "\n" for line in lines).encode()
    met: list[set[int]] = []
    for got in batches(text * len(asked), WIDTH, ";", False, len(text)):
        columns = got.batch.columns
        assert isinstance(columns, Columns)
        made = {at for at, one in enumerate(columns.entries) if not is_unmade(one)}
        assert made == (met[-UNDER_WAY] if len(met) >= UNDER_WAY else set())
        met.append(asked[len(met) % len(asked)])
        wanted = expected(lines, [(row - 1) % len(lines) for row in got.batch.rows.tolist()])
        for index in met[-1]:
            assert columns[index].to_pylist() == wanted[index]
        every = Columns(FieldColumn(one.read, one.field, one.array) for one in columns.entries)
        assert cells(every.stretch(range(WIDTH), 0, len(got.batch))) == wanted


def test_a_column_that_a_step_hands_back_is_the_field_again() -> None:
    [batch] = read([["a", "b", "c"]])
    before = batch.columns
    other = pa.array(["x"])
    after = batch.with_columns([before[1], other, *entries_of(before)[2:]]).columns
    assert isinstance(before, Columns) and isinstance(after, Columns)
    assert after.entries[0] is before.entries[1] and after.entries[2] is before.entries[2]
    assert after.entries[1] is other
    assert isinstance(with_entries(before, [other]), tuple)


def test_columns_by_name_are_made_when_they_are_asked_for() -> None:
    [batch] = read([["a", "b", "c"]])
    columns = batch.columns
    assert isinstance(columns, Columns)
    named = ByName(["one", "two", "three"], columns)
    assert list(named) == ["one", "two", "three"] and named["two"].to_pylist() == ["b"]
    assert [is_unmade(one) for one in columns.entries] == [True, False, True]
    with pytest.raises(KeyError):
        named["four"]


def test_rows_of_a_gathering_step_keep_nothing_of_what_was_read() -> None:
    [batch] = read([["a", "b", "c"]])
    assert type(batch.made().columns) is tuple
    assert batch.made([1]).columns is batch.columns
