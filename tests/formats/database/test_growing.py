"""Tables that grow: only rows that were not delivered before are read, late ones among the last values too."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.postgres_server import Server

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.language.mistake import Refusal


def taken(address: str, clause: str, before: Any = None) -> tuple[list[tuple[Any, ...]], Any, list[str]]:
    """The rows that are new, what is noted for the next time, and the remarks."""
    recipe = LinkedRecipe.parse(f'mangler 1\nread table "t" {clause}\ntolerate 100%\n')
    result = recipe.run(address, options=RunOptions(only_new=True, delivered=before))
    rows = [tuple(row.values()) for row in result.table.to_pylist()]
    account = result.summary.to_json()
    return rows, account["newest"], account["steps"][0]["remarks"]


def put(path: Path, rows: list[tuple[Any, ...]], kind: str = "INTEGER") -> None:
    with closing(sqlite3.connect(path)) as connection:
        connection.execute(f"CREATE TABLE IF NOT EXISTS t (id {kind}, v TEXT)")
        connection.executemany("INSERT INTO t VALUES (?, ?)", rows)
        connection.commit()


def test_only_higher_values_are_read_next_time(tmp_path: Path) -> None:
    address = f"sqlite:///{tmp_path}/a.db"
    put(tmp_path / "a.db", [(5, "a"), (3, "b"), (None, "c")])
    rows, noted, _ = taken(address, "newer than id")
    assert rows == [(5, "a"), (3, "b"), (None, "c")] and noted == {"column": "id", "value": "5", "rows": []}
    nothing, same, remarks = taken(address, "newer than id", noted)
    assert nothing == [] and same == noted
    assert "no row is newer than those that were delivered before, up to id 5" in remarks
    put(tmp_path / "a.db", [(4, "late"), (9, "d"), (10, "e")])
    rows, noted, _ = taken(address, "newer than id", noted)
    assert rows == [(9, "d"), (10, "e")] and noted["value"] == "10"
    # Another column says now what is new: all rows are read again.
    assert len(taken(address, "newer than v", noted)[0]) == 6


@given(
    first=st.lists(st.tuples(st.integers(0, 30), st.sampled_from("abc")), max_size=25),
    second=st.lists(st.tuples(st.integers(0, 40), st.sampled_from("de")), max_size=25),
    third=st.lists(st.tuples(st.integers(0, 50), st.sampled_from("fg")), max_size=25),
    overlap=st.integers(1, 60),
)
def test_with_overlap_no_row_comes_twice(
    tmp_path: Path,
    first: list[tuple[int, str]],
    second: list[tuple[int, str]],
    third: list[tuple[int, str]],
    overlap: int,
) -> None:
    """And with an overlap of all values no row is missed, however late it comes."""
    (tmp_path / "a.db").unlink(missing_ok=True)
    address, noted, found = f"sqlite:///{tmp_path}/a.db", None, []
    for rows in (first, second, third):
        put(tmp_path / "a.db", rows)
        new, noted, _ = taken(address, f"newer than id overlap {overlap}", noted)
        assert set(new) <= set(rows)
        found += new
    if overlap > 50 and first:
        lowest = min(value for value, _ in first)
        assert {one for one in (*first, *second, *third) if one[0] >= lowest} == {
            one for one in found if one[0] >= lowest
        }


@pytest.mark.parametrize(
    ("kind", "values"),
    [
        ("bigint", ["1", "2", "3"]),
        ("smallint", ["1", "2", "3"]),
        ("numeric(9,2)", ["1.10", "1.20", "10.00"]),
        ("date", ["2026-05-01", "2026-05-02", "2026-11-01"]),
        ("timestamp", ["2026-05-01 00:00:00.000001", "2026-05-01 00:00:01", "2026-06-01 00:00:00"]),
        ("timestamptz", ["2026-05-01 00:00:00+02", "2026-05-01 00:00:00+00", "2026-06-01 00:00:00+00"]),
        ("text", ["B", "a", "é"]),
        ("uuid", [f"{digit}0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11" for digit in "1ab"]),
    ],
)
def test_each_type_that_has_an_order(postgres: Server, kind: str, values: list[str]) -> None:
    postgres.run("DROP TABLE IF EXISTS t", f"CREATE TABLE t (id {kind}, v text)")
    for clause in ("newer than id", "newer than id overlap 1"):
        postgres.run("DELETE FROM t")
        noted = None
        for value in values:
            postgres.run(f"INSERT INTO t VALUES ('{value}', 'x')")
            new, noted, _ = taken(postgres.address, clause, noted)
            assert len(new) == 1
    postgres.run("DROP TABLE t")


@pytest.mark.parametrize(
    ("clause", "message"),
    [
        ("", "nothing says which of its rows are new"),
        ("newer than idd", "Nearest: id"),
        ("newer than f", "values of this type do not say what is newer"),
        ("overlap 5", "no column is named"),
        ("newer than id overlap 10001", "at most 10,000 values are remembered"),
    ],
)
def test_what_cannot_be(tmp_path: Path, clause: str, message: str) -> None:
    with closing(sqlite3.connect(tmp_path / "a.db")) as connection:
        connection.execute("CREATE TABLE t (id INTEGER, f)")
        connection.execute("INSERT INTO t VALUES (1, 2.5)")
        connection.commit()
    with pytest.raises(Refusal, match=message):
        taken(f"sqlite:///{tmp_path}/a.db", clause)
