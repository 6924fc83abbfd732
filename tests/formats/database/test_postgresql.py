"""PostgreSQL, a real server: types both ways, one transaction, rows that break rules, connections that are cut."""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from datetime import UTC, date, datetime, time
from decimal import Decimal
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.postgres_server import Server

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.language.mistake import ExitCode, Refusal


@pytest.fixture
def table(postgres: Server) -> Iterator[str]:
    """The name of a table that is free."""
    name = f"t_{secrets.token_hex(6)}"
    yield name
    postgres.run(f'DROP TABLE IF EXISTS "{name}"')


def run(recipe: str, extract: Any, to: Any = None, options: RunOptions | None = None, **more: Any) -> Any:
    return LinkedRecipe.parse(f"mangler 1\n{recipe}\n", **more).run(str(extract), to, options=options)


SAMPLES = {
    "smallint": ("1", pa.int16(), 1),
    "integer": ("-2", pa.int32(), -2),
    "bigint": ("9223372036854775807", pa.int64(), 2**63 - 1),
    "real": ("0.1", pa.float32(), None),
    "double precision": ("0.1", pa.float64(), 0.1),
    "numeric(12,3)": ("-1.250", pa.decimal128(12, 3), Decimal("-1.250")),
    "numeric": ("12345678901234567890.123456789012345678901234567890", pa.string(), None),
    "numeric(50,10)": ("1.5", pa.string(), "1.5000000000"),
    "text": ("' é '", pa.string(), " é "),
    "varchar(9)": ("'a'", pa.string(), "a"),
    "char(3)": ("'a'", pa.string(), "a  "),
    "boolean": ("true", pa.bool_(), True),
    "date": ("'2026-05-04'", pa.date32(), date(2026, 5, 4)),
    "time": ("'01:02:03.5'", pa.time64("us"), time(1, 2, 3, 500_000)),
    "timestamp": ("'2026-05-04 01:02:03'", pa.timestamp("us"), datetime(2026, 5, 4, 1, 2, 3)),
    "timestamptz": (
        "'2026-05-04 01:02:03+02'",
        pa.timestamp("us", "UTC"),
        datetime(2026, 5, 3, 23, 2, 3, tzinfo=UTC),
    ),
    "interval": ("'1 month 2 hours'", pa.string(), "1 mon 02:00:00"),
    "uuid": ("'a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11'", pa.string(), "a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11"),
    "inet": ("'10.0.0.1'", pa.string(), "10.0.0.1/32"),
    "bytea": (r"'\x00ff'", pa.binary(), b"\x00\xff"),
    "integer[]": ("'{1,NULL}'", pa.list_(pa.int32()), [1, None]),
    "text[]": ("'{a,NULL}'", pa.list_(pa.string()), ["a", None]),
    "jsonb": ("'{\"a\": 1}'", None, '{"a": 1}'),
}


@pytest.mark.parametrize("kind", SAMPLES)
def test_each_type_both_ways(postgres: Server, table: str, kind: str, tmp_path: Path) -> None:
    spelled, type_, value = SAMPLES[kind]
    postgres.run(f"CREATE TABLE {table} (v {kind})", f"INSERT INTO {table} VALUES ({spelled}), (NULL)")
    run("tolerate 100%", f"{postgres.address}#{table}", tmp_path / "t.parquet")
    found = pq.read_table(tmp_path / "t.parquet")["v"]
    if type_ is not None:
        assert found.type == type_
    if value is not None:
        assert found.to_pylist() == [value, None]
    # Into a table of the same columns, as it is.
    copy = f"{table}_copy"
    try:
        postgres.run(f"CREATE TABLE {copy} (v {kind})")
        write = f'write table "{copy}" append'
        if kind in ("numeric", "numeric(50,10)"):
            with pytest.raises(Refusal, match="could change the values"):
                run(write, f"{postgres.address}#{table}", postgres.address)
            return
        run(write, f"{postgres.address}#{table}", postgres.address)
        compared = "SELECT v::text FROM {} ORDER BY v IS NULL"
        assert postgres.run(compared.format(copy)) == postgres.run(compared.format(table))
    finally:
        postgres.run(f"DROP TABLE {copy}")


def test_a_new_table_has_the_types_of_its_columns(postgres: Server, table: str, tmp_path: Path) -> None:
    columns = {
        "small int": pa.array([1, None], pa.int16()),
        "big": pa.array([1, None], pa.uint64()),
        "dec": pa.array([Decimal("1.50"), None], pa.decimal128(9, 2)),
        "ns": pa.array([1_000, None], pa.timestamp("ns")),
        "zone": pa.array([0, None], pa.timestamp("ms", "Europe/Vienna")),
        "words": pa.array(["a", None]).dictionary_encode(),
        "list": pa.array([["a"], None]),
        "nothing": pa.nulls(2),
    }
    pq.write_table(pa.table(columns), tmp_path / "t.parquet")
    run(f'write table "{table}"', tmp_path / "t.parquet", postgres.address)
    kinds = postgres.run(
        "SELECT format_type(atttypid, atttypmod) FROM pg_attribute"
        f" WHERE attrelid = '{table}'::regclass AND attnum > 0 ORDER BY attnum"
    )
    assert [kind for (kind,) in kinds] == [
        "smallint", "numeric(20,0)", "numeric(9,2)", "timestamp without time zone", "timestamp with time zone", "text",
        "text[]", "text",
    ]  # fmt: skip
    assert postgres.run(f'SELECT dec::text, ns::text, words FROM "{table}" WHERE dec IS NOT NULL') == [
        ("1.50", "1970-01-01 00:00:00.000001", "a")
    ]


def test_what_would_be_cut_is_refused(postgres: Server, table: str, tmp_path: Path) -> None:
    columns = {"ns": pa.array([1], pa.timestamp("ns"))}
    pq.write_table(pa.table(columns), tmp_path / "t.parquet")
    with pytest.raises(Refusal, match='the column "ns" is timestamp'):
        run(f'write table "{table}"', tmp_path / "t.parquet", postgres.address)
    pq.write_table(pa.table({"d": pa.array([Decimal("1.55")], pa.decimal128(9, 2))}), tmp_path / "t.parquet")
    postgres.run(f"CREATE TABLE {table} (d numeric(9,1))")
    with pytest.raises(Refusal, match=r"has numeric\(9,1\) there, which could change the values"):
        run(f'write table "{table}" append', tmp_path / "t.parquet", postgres.address)
    assert postgres.run(f"SELECT count(*) FROM {table}") == [(0,)]


@pytest.mark.parametrize(
    ("kind", "value"),
    [("date", "infinity"), ("date", "-infinity"), ("timestamp", "infinity"), ("timestamptz", "-infinity"),
     ("numeric(9,2)", "NaN"), ("date", "0044-03-15 BC")],
)  # fmt: skip
def test_values_that_arrow_has_not_are_refused_by_name(
    postgres: Server, table: str, kind: str, value: str
) -> None:
    postgres.run(f"CREATE TABLE {table} (v {kind})", f"INSERT INTO {table} VALUES ('{value}')")
    with pytest.raises(Refusal, match='"v"'):
        run("tolerate 100%", f"{postgres.address}#{table}")
    found = run(f'read query "select v::text from {table}"', postgres.address).table
    assert found["v"].to_pylist() == [value]


@given(
    rows=st.lists(
        st.tuples(
            st.none() | st.integers(-(2**63), 2**63 - 1),
            st.none() | st.floats(allow_nan=False),
            st.none()
            | st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0"), max_size=5),
            st.none() | st.decimals(-(10**9), 10**9, places=3),
            st.none() | st.binary(max_size=4),
        ),
        max_size=20,
    ),
    size=st.integers(1, 9),
)
def test_what_is_written_is_read_again(
    postgres: Server, table: str, tmp_path: Path, rows: list[tuple[Any, ...]], size: int
) -> None:
    schema = pa.schema(
        [("i", pa.int64()), ("f", pa.float64()), ('a b"c', pa.string()), ("d", pa.decimal128(20, 3)),
         ("x", pa.binary())]
    )  # fmt: skip
    columns = list(zip(*rows, strict=True)) or [()] * 5
    arrays = [pa.array(column, field.type) for column, field in zip(columns, schema, strict=True)]
    pq.write_table(pa.table(arrays, schema), tmp_path / "t.parquet", row_group_size=size)
    postgres.run(f"DROP TABLE IF EXISTS {table}")
    for how in ("create", "replace", "append"):
        run(f'write table "{table}" {how}', tmp_path / "t.parquet", postgres.address)
    again = run("tolerate 100%", f"{postgres.address}#{table}").table
    assert [tuple(row.values()) for row in again.to_pylist()] == rows * 2


def test_a_broken_rule_is_said_with_its_row(postgres: Server, table: str, tmp_path: Path) -> None:
    postgres.run(
        f"CREATE TABLE {table} (n bigint PRIMARY KEY, d text DEFAULT 'own')",
        f"INSERT INTO {table} VALUES (23456)",
    )
    (tmp_path / "e.csv").write_text("n\n" + "".join(f"{number}\n" for number in range(1, 30_001)))
    with pytest.raises(Refusal, match=r"row 23,456 of the output does not fit.*\(n\)=\(23456\)") as caught:
        run(f'convert n to integer\nwrite table "{table}" append', tmp_path / "e.csv", postgres.address)
    assert caught.value.code is ExitCode.FILE_TROUBLE
    assert postgres.run(f"SELECT * FROM {table}") == [(23456, "own")]
    run(f'convert n to integer\nwrite table "{table}" replace', tmp_path / "e.csv", postgres.address)
    assert postgres.run(f"SELECT count(*), min(d) FROM {table}") == [(30_000, "own")]


def test_a_query_reads_and_changes_nothing(postgres: Server, table: str) -> None:
    postgres.run(f"CREATE TABLE {table} (k text, n int)", f"INSERT INTO {table} VALUES ('a''x', 1), ('b', 2)")
    query = f"select k, n from {table} where k = :key and n >= :least"
    recipe = f'parameter key = "b"\nparameter least = 1\nread query "{query}"'
    found = run(recipe, postgres.address, parameters={"key": "a'x"})
    assert found.table.to_pylist() == [{"k": "a'x", "n": 1}]
    for query, message in (
        (f"delete from {table}", "does not take the query"),
        (f"with x as (delete from {table} returning k) select k from x", "read-only transaction"),
        (f"select 1; delete from {table}", "does not take the query"),
        (f"select nope from {table}", 'column "nope" does not exist'),
        ("selec 1", "syntax error"),
        (f"select 1/(n-1) from {table}", "division by zero"),
    ):
        with pytest.raises(Refusal, match=message):
            run(f'read query "{query}"', postgres.address)
    assert postgres.run(f"SELECT count(*) FROM {table}") == [(2,)]


def test_tables_in_schemas_and_views(postgres: Server, table: str) -> None:
    postgres.run(
        f"CREATE SCHEMA s_{table}", f"CREATE TABLE s_{table}.a (k int)", f"INSERT INTO s_{table}.a VALUES (7)",
        f"CREATE VIEW {table}_v AS SELECT 1 AS one",
    )  # fmt: skip
    try:
        assert run(f'read table "s_{table}.a"', postgres.address).table.to_pylist() == [{"k": 7}]
        assert run(f'read table "public.{table}_v"', postgres.address).table.to_pylist() == [{"one": 1}]
        with pytest.raises(Refusal, match=f"Nearest: {table}_v"):
            run(f'read table "{table}_w"', postgres.address)
        run(f'write table "s_{table}.b"', f"{postgres.address}#{table}_v", postgres.address)
        assert postgres.run(f"SELECT * FROM s_{table}.b") == [(1,)]
    finally:
        postgres.run(f"DROP SCHEMA s_{table} CASCADE", f"DROP VIEW {table}_v")


def test_a_cut_connection_leaves_the_table(postgres: Server, table: str, tmp_path: Path) -> None:
    """The server's process is ended in the middle of writing, and in the middle of reading."""
    (tmp_path / "e.csv").write_text("k\n" + "x\n" * 200_000)
    postgres.run(f"CREATE TABLE {table} (k text)", f"INSERT INTO {table} VALUES ('before')")
    cut = (
        "SELECT pg_terminate_backend(pid) FROM pg_stat_activity"
        " WHERE pid <> pg_backend_pid() AND backend_type = 'client backend'"
    )
    done: list[int] = []

    def progress(rows: int, _: int) -> None:
        if rows > 100_000 and not done:
            done.append(rows)
            postgres.run(cut)

    options = RunOptions(progress=progress, partition_size=50_000)
    with pytest.raises(Refusal, match=f'table "{table}" is not written: ') as caught:
        run(f'write table "{table}" replace', tmp_path / "e.csv", postgres.address, options)
    assert done and caught.value.code is ExitCode.FILE_TROUBLE
    assert postgres.run(f"SELECT * FROM {table}") == [("before",)]
    done.clear()
    query = "read query \"select g, repeat('x', 100) from generate_series(1, 3000000) g\""
    with pytest.raises(Refusal, match="cannot be read to its end"):
        run(query, postgres.address, tmp_path / "out.csv", options)
    assert done and not (tmp_path / "out.csv").exists()


def test_a_server_that_is_not_there(postgres: Server, tmp_path: Path) -> None:
    for address, message in (
        (f"postgresql://tester@/postgres?host={tmp_path}&port=1", "cannot be reached"),
        (postgres.address.replace("/postgres?", "/nope?"), 'database "nope" does not exist'),
        (postgres.address.replace("tester:", "nobody-here:"), "nobody-here"),
        ("postgresql://localhost:1/x?port=abc", "cannot be reached"),
    ):
        with pytest.raises(Refusal, match=message) as caught:
            run('read table "t"', address)
        assert caught.value.code is ExitCode.FILE_TROUBLE
        assert "sesame-99" not in str(caught.value)


def test_rights_that_are_missing(postgres: Server, table: str, tmp_path: Path) -> None:
    postgres.run(f"CREATE TABLE {table} (k text)", f"CREATE ROLE r_{table} LOGIN")
    try:
        (tmp_path / "e.csv").write_text("k\na\n")
        other = postgres.address.replace("tester:sesame-99", f"r_{table}")
        with pytest.raises(Refusal, match="permission denied for table"):
            run(f'write table "{table}" append', tmp_path / "e.csv", other)
        with pytest.raises(Refusal, match="permission denied"):
            run(f'read table "{table}"', other)
    finally:
        postgres.run(f"DROP ROLE r_{table}")
