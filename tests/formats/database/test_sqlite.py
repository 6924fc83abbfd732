"""SQLite: the type of a column is that of all its values; a table is written whole or not at all."""

from __future__ import annotations

import sqlite3
import threading
from contextlib import closing
from datetime import date, datetime
from decimal import Decimal
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.mistake import ExitCode, Refusal

LARGEST = 2**63 - 1
TABLE = "CREATE TABLE t (k TEXT PRIMARY KEY, n INTEGER, own TEXT DEFAULT 'd')"


def script(path: Path, *statements: str) -> None:
    with closing(sqlite3.connect(path)) as connection:
        for statement in statements:
            connection.execute(statement)
        connection.commit()


def rows_of(path: Path, query: str) -> list[tuple[Any, ...]]:
    with closing(sqlite3.connect(path)) as connection:
        return connection.execute(query).fetchall()


def run(recipe: str, extract: str, to: str | Path | None = None, **more: Any) -> Any:
    return LinkedRecipe.parse(f"mangler 1\n{recipe}\n", **more).run(extract, to)


@pytest.mark.parametrize(
    ("values", "type_", "read"),
    [
        ((1, LARGEST, -LARGEST - 1, None), pa.int64(), [1, LARGEST, -LARGEST - 1, None]),
        ((1, 2.5), pa.float64(), [1.0, 2.5]),
        ((2**53 + 1, 0.1), pa.string(), [str(2**53 + 1), "0.1"]),
        ((None, None), pa.string(), [None, None]),
        (("007", 7, 7.25), pa.string(), ["007", "7", "7.25"]),
        ((b"\x00\xff", None), pa.binary(), [b"\x00\xff", None]),
        (("é\n", ""), pa.string(), ["é\n", ""]),
    ],
)
def test_the_type_of_a_column_is_that_of_all_its_values(
    tmp_path: Path, values: tuple[Any, ...], type_: Any, read: list[Any]
) -> None:
    with closing(sqlite3.connect(tmp_path / "a.db")) as connection:
        connection.execute("CREATE TABLE t (v)")
        connection.executemany("INSERT INTO t VALUES (?)", [(value,) for value in values])
        connection.commit()
    result = run("tolerate 100%", f"sqlite:///{tmp_path}/a.db")
    assert result.table["v"].type == type_
    assert result.table["v"].to_pylist() == read
    several = {type(value) for value in values} - {type(None)}
    told = [one for one in result.summary.to_json()["steps"][0]["remarks"] if "several kinds" in one]
    assert bool(told) == (type_ == pa.string() and len(several) > 1)


@given(
    rows=st.lists(
        st.tuples(
            st.none() | st.integers(-LARGEST - 1, LARGEST),
            st.none() | st.floats(allow_nan=False),
            st.none() | st.text(st.characters(exclude_categories=["Cs"]), max_size=5),
            st.none() | st.binary(max_size=4),
        ),
        max_size=30,
    )
)
def test_what_is_written_is_read_again(tmp_path: Path, rows: list[tuple[Any, ...]]) -> None:
    schema = pa.schema([("i", pa.int64()), ("f", pa.float64()), ('a b"c', pa.string()), ("x", pa.binary())])
    columns = list(zip(*rows, strict=True)) or [(), (), (), ()]
    pq.write_table(
        pa.table([pa.array(c, f.type) for c, f in zip(columns, schema, strict=True)], schema),
        tmp_path / "t.parquet",
    )
    (tmp_path / "c.db").unlink(missing_ok=True)
    run('write table "t"', str(tmp_path / "t.parquet"), f"sqlite:///{tmp_path}/c.db")
    assert rows_of(tmp_path / "c.db", "SELECT * FROM t") == rows
    again = run("tolerate 100%", f"sqlite:///{tmp_path}/c.db").table
    assert [tuple(row.values()) for row in again.to_pylist()] == rows


def test_types_that_sqlite_has_not(tmp_path: Path) -> None:
    table = pa.table(
        {
            "n": pa.array([Decimal("1.50"), None], pa.decimal128(30, 2)),
            "d": pa.array([date(2026, 5, 4), None]),
            "t": pa.array([datetime(2026, 5, 4, 1, 2, 3), None], pa.timestamp("us")),
            "b": [True, None],
            "l": pa.array([["a", "é"], None]),
        }
    )
    pq.write_table(table, tmp_path / "t.parquet")
    run('write table "t"', str(tmp_path / "t.parquet"), f"sqlite:///{tmp_path}/c.db")
    assert rows_of(tmp_path / "c.db", "SELECT * FROM t") == [
        ("1.50", "2026-05-04", "2026-05-04T01:02:03", 1, '["a","é"]'),
        (None,) * 5,
    ]


def test_append_and_replace_keep_the_table(tmp_path: Path) -> None:
    script(
        tmp_path / "c.db",
        TABLE,
        "INSERT INTO t VALUES ('a', 1, 'x')",
    )
    (tmp_path / "e.csv").write_text("n,k\n2,b\n3,c\n")
    to, extract = f"sqlite:///{tmp_path}/c.db", str(tmp_path / "e.csv")
    run('convert n to integer\nwrite table "t" append', extract, to)
    assert rows_of(tmp_path / "c.db", "SELECT * FROM t ORDER BY k") == [
        ("a", 1, "x"),
        ("b", 2, "d"),
        ("c", 3, "d"),
    ]
    run('convert n to integer\nwrite table "t" replace', extract, to)
    assert rows_of(tmp_path / "c.db", "SELECT * FROM t") == [("b", 2, "d"), ("c", 3, "d")]
    with pytest.raises(Refusal, match=r"row 1 of the output does not fit: UNIQUE constraint failed: t\.k"):
        run('convert n to integer\nwrite table "t" append', extract, to)
    with pytest.raises(Refusal, match="it is there already"):
        run('convert n to integer\nwrite table "t"', extract, to)
    assert len(rows_of(tmp_path / "c.db", "SELECT * FROM t")) == 2


def test_a_refused_run_leaves_no_file(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text("n\n1\nx\n")
    with pytest.raises(Refusal, match="1 row fails"):
        run('convert n to integer\nwrite table "t"', str(tmp_path / "e.csv"), f"sqlite:///{tmp_path}/c.db")
    assert [path.name for path in tmp_path.iterdir()] == ["e.csv"]


def test_a_broken_rule_is_said_with_its_row(tmp_path: Path) -> None:
    script(tmp_path / "c.db", "CREATE TABLE t (n INTEGER PRIMARY KEY)", "INSERT INTO t VALUES (23456)")
    (tmp_path / "e.csv").write_text("n\n" + "".join(f"{number}\n" for number in range(1, 30_001)))
    with pytest.raises(Refusal, match="row 23,456 of the output") as caught:
        run(
            'convert n to integer\nwrite table "t" append',
            str(tmp_path / "e.csv"),
            f"sqlite:///{tmp_path}/c.db",
        )
    assert caught.value.code is ExitCode.FILE_TROUBLE
    assert rows_of(tmp_path / "c.db", "SELECT * FROM t") == [(23456,)]


@pytest.mark.parametrize(
    ("declared", "made", "message"),
    [
        ("k INTEGER", "k", "has INTEGER there, which would change the values"),
        ("k TEXT", "n to integer", "has no column of this name"),
        ("kk TEXT", "k", "Nearest: kk"),
        ("k DECIMAL(10,2)", "k", "has NUMERIC there"),
    ],
)
def test_columns_that_do_not_fit(tmp_path: Path, declared: str, made: str, message: str) -> None:
    script(tmp_path / "c.db", f"CREATE TABLE t ({declared})")
    (tmp_path / "e.csv").write_text("k,n\n007,1\n")
    steps = "convert n to integer" if "integer" in made else "keep columns k"
    with pytest.raises(Refusal, match=message):
        run(f'{steps}\nwrite table "t" append', str(tmp_path / "e.csv"), f"sqlite:///{tmp_path}/c.db")


def test_a_table_of_the_same_file_can_be_written_and_not_the_extract_itself(tmp_path: Path) -> None:
    script(tmp_path / "a.db", "CREATE TABLE t (k TEXT)", "INSERT INTO t VALUES (' x ')")
    address = f"sqlite:///{tmp_path}/a.db"
    run('trim *\nwrite table "clean"', f"{address}#t", address)
    assert rows_of(tmp_path / "a.db", "SELECT * FROM clean") == [("x",)]
    with pytest.raises(Refusal, match="is the extract itself"):
        run('read table "T"\ntrim *\nwrite table "t" replace', address, address)


def test_a_locked_database_is_waited_for_and_then_refused(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from mangler.formats.database import sqlite

    script(tmp_path / "c.db", "CREATE TABLE t (k TEXT)")
    (tmp_path / "e.csv").write_text("k\na\n")
    words = ('write table "t" append', str(tmp_path / "e.csv"), f"sqlite:///{tmp_path}/c.db")
    other = sqlite3.connect(tmp_path / "c.db", isolation_level=None, check_same_thread=False)
    other.execute("BEGIN IMMEDIATE")
    monkeypatch.setattr(sqlite, "WAIT", 0.1)
    with pytest.raises(Refusal, match="another program writes to the database"):
        run(*words)
    monkeypatch.setattr(sqlite, "WAIT", 30.0)
    timer = threading.Timer(0.3, lambda: other.execute("ROLLBACK"))
    timer.start()
    run(*words)
    timer.join()
    other.close()
    assert rows_of(tmp_path / "c.db", "SELECT * FROM t") == [("a",)]


@pytest.mark.parametrize(
    ("query", "message"),
    [
        ("selec 1", "does not take the query"),
        ("delete from t", "does not take the query"),
        ("select 1; select 2", "does not take the query"),
        ("select nope from t", "no such column: nope"),
        ("select 1 as a, 2 as a", "column"),
        ("select :x", "no parameter of this name"),
        (" ", "the query is empty"),
    ],
)
def test_queries_that_are_refused(tmp_path: Path, query: str, message: str) -> None:
    script(tmp_path / "a.db", "CREATE TABLE t (k TEXT)", "INSERT INTO t VALUES ('x')")
    with pytest.raises(Refusal, match=message):
        run(f'read query "{query}"', f"sqlite:///{tmp_path}/a.db")
    assert rows_of(tmp_path / "a.db", "SELECT * FROM t") == [("x",)]


def test_parameters_are_bound(tmp_path: Path) -> None:
    script(
        tmp_path / "a.db",
        "CREATE TABLE t (k TEXT, n INTEGER)",
        "INSERT INTO t VALUES ('a''; drop table t', 1), ('b', 2)",
    )
    (tmp_path / "q.sql").write_text("select k, n * :times as m from t where k = :key -- :no\n")
    recipe = 'parameter key = "b"\nparameter times = 2\nread query from "q.sql"'
    name = str(tmp_path / "r.mangler")
    found = run(recipe, f"sqlite:///{tmp_path}/a.db", name=name, parameters={"key": "a'; drop table t"})
    assert found.table.to_pylist() == [{"k": "a'; drop table t", "m": 2}]
    assert not any("not used" in one for step in found.summary.to_json()["steps"] for one in step["remarks"])


@pytest.mark.parametrize(
    ("address", "message"),
    [
        ("sqlite:///{}/none.db", "does not exist"),
        ("sqlite:///{}/no/none.db", "the folder"),
        ("sqlite:///{}", "is a folder"),
        ("sqlite:///{}/e.csv", "is not a database of SQLite"),
        ("sqlite://host/a.db", "names no file"),
        ("sqlite:///{}/a.db#tt", "Nearest: t"),
        ("sqlite:///{}/a.db", "holds 2 tables"),
        ("sqlite:///{}/empty.db", "holds 0 tables"),
    ],
)
def test_what_cannot_be_opened(tmp_path: Path, address: str, message: str) -> None:
    script(tmp_path / "a.db", "CREATE TABLE t (k TEXT)", "CREATE VIEW v AS SELECT 1")
    (tmp_path / "empty.db").touch()
    (tmp_path / "e.csv").write_text("a\n1\n")
    with pytest.raises(Refusal, match=message):
        run("tolerate 1%", address.format(tmp_path))
    assert not (tmp_path / "none.db").exists()


def test_bytes_among_other_values_are_refused_by_name(tmp_path: Path) -> None:
    script(tmp_path / "a.db", "CREATE TABLE t (k, v)", "INSERT INTO t VALUES (1, x'00'), (2, 'a')")
    with pytest.raises(Refusal, match='the column "v" holds bytes'):
        run("tolerate 1%", f"sqlite:///{tmp_path}/a.db")


def test_a_query_that_is_too_long_is_not_cut(tmp_path: Path) -> None:
    script(tmp_path / "a.db", "CREATE TABLE t (k TEXT)")
    (tmp_path / "q.sql").write_text("select k from t --" + "x" * (1 << 20))
    with pytest.raises(Refusal, match="more than 1,048,576 characters"):
        run('read query from "q.sql"', f"sqlite:///{tmp_path}/a.db", name=str(tmp_path / "r.mangler"))
