"""PostgreSQL by its ADBC driver: rows come as columns, in one read-only transaction, as fast as they are asked for."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Sequence
from typing import Any

import adbc_driver_manager.dbapi as dbapi
import adbc_driver_postgresql.dbapi as driver
import pyarrow as pa

from mangler.addresses import with_password
from mangler.formats.database.contract import Connection, Query, Rows, TableWriter
from mangler.formats.database.names import quoted
from mangler.formats.database.postgresql_told import told
from mangler.formats.database.postgresql_types import FieldKind, field_kind, fitted
from mangler.formats.database.postgresql_writer import PostgresqlWriter
from mangler.formats.database.trouble import not_reached, query_refused, read_fails
from mangler.kernels.arrow import ColumnArray
from mangler.language.mistake import enumerate_names
from mangler.language.placeholders import names_in, with_places
from mangler.late_dataclass import dataclass

MOST_TOLD = 4
OF_QUERIES = ("22", "25006", "42")
"""Starts of SQLSTATE that are about the query: values, writing, syntax and names (appendix A of the manual)."""
TABLES = """
SELECT CASE WHEN pg_table_is_visible(c.oid) THEN c.relname ELSE n.nspname || '.' || c.relname END AS name
FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND n.nspname NOT IN ('pg_catalog', 'information_schema')
  AND n.nspname NOT LIKE 'pg_toast%' AND n.nspname NOT LIKE 'pg_temp%'
ORDER BY 1
"""
UNREACHABLE = (
    "Is the server there, and are the user and the password right? PGPASSWORD or a password file gives it."
)


def connect(address: str, name: str, writes: bool) -> Connection:
    """Connects to a server. One that is only read is told so: nothing can be changed through the connection."""
    try:
        found = driver.connect(with_password(address))
    except dbapi.Error as error:
        raise not_reached(name, told(error), UNREACHABLE) from None
    connection = PostgresqlConnection(found, name)
    if not writes:
        with found.cursor() as cursor:
            cursor.execute("SET SESSION CHARACTERISTICS AS TRANSACTION READ ONLY")
        found.commit()
    return connection


@dataclass(frozen=True)
class PostgresqlConnection:
    own: Any
    name: str

    def tables(self) -> list[str]:
        with self.own.cursor() as cursor:
            cursor.execute(TABLES)
            return [row[0] for row in cursor.fetchall()]

    def table(self, name: str) -> Rows | None:
        own = next((one for one in self.tables() if one == name), None)
        if own is None and name.partition(".")[2]:  # one that needs no schema, named with it
            own = self._with_schema(name)
        return None if own is None else self._rows(f"SELECT * FROM {table_name(own)}", ())

    def _with_schema(self, name: str) -> str | None:
        schema, _, table = name.partition(".")
        with self.own.cursor() as cursor:
            cursor.execute(
                "SELECT 1 FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace"
                " WHERE n.nspname = $1 AND c.relname = $2",
                (schema, table),
            )
            return name if cursor.fetchall() else None

    def query(self, query: Query) -> Rows:
        text = with_places(query.text, lambda number: f"${number}").strip().rstrip(";")
        return self._rows(text, tuple(query.values[name] for name in names_in(query.text)))

    def _rows(self, query: str, values: Sequence[Any]) -> Rows:
        try:
            with self.own.cursor() as cursor:
                schema = (
                    cursor.adbc_execute_schema(query) if not values else _schema_of(cursor, query, values)
                )
        except dbapi.Error as error:
            raise query_refused(self.name, RuntimeError(told(error))) from None
        return _PostgresqlRows(self.own, self.name, query, values, schema)

    def writer(self, table: str, schema: Any, how: str) -> TableWriter:
        return PostgresqlWriter(self.own, self.name, table, schema, how)

    def close(self) -> None:
        with contextlib.suppress(dbapi.Error):
            self.own.close()


def _schema_of(cursor: Any, query: str, values: Sequence[Any]) -> Any:
    """The columns of a query with values: the driver tells them only when it has begun."""
    cursor.execute(f"SELECT * FROM ({query}\n) AS q LIMIT 0", tuple(values))
    with cursor.fetch_record_batch() as reader:
        return reader.schema


def table_name(name: str) -> str:
    """A table as a query names it; what is before a point is its schema."""
    schema, point, table = name.partition(".")
    return f"{quoted(schema)}.{quoted(table)}" if point else quoted(name)


class _PostgresqlRows:
    """The rows of a query. Values that Arrow has no exact type for are made texts by the server."""

    def __init__(self, own: Any, name: str, query: str, values: Sequence[Any], schema: Any) -> None:
        self._own, self._name, self._values = own, name, tuple(values)
        self._asked, self._described = query, schema
        self._kinds: list[FieldKind] = [field_kind(field) for field in schema]
        self.remarks: list[str] = []
        if any(kind.told for kind in self._kinds):
            texts = [
                f"{field.name} ({kind.told})"
                for field, kind in zip(schema, self._kinds, strict=True)
                if kind.told
            ]
            what = "1 column is" if len(texts) == 1 else f"{len(texts):,} columns are"
            self.remarks.append(f"{what} read as text: {enumerate_names(texts, MOST_TOLD)}")
        self._query = query
        if any(kind.by_server for kind in self._kinds):
            names = ", ".join(f"c{index}" for index in range(len(schema)))
            asked = ", ".join(
                f"c{index}::text" if kind.by_server else f"c{index}" for index, kind in enumerate(self._kinds)
            )
            self._query = f"SELECT {asked} FROM ({query}\n) AS q ({names})"
        self.schema = pa.schema(
            [(field.name, kind.type) for field, kind in zip(schema, self._kinds, strict=True)]
        )

    def above(self, column: str, value: Any, inclusive: bool) -> Rows:
        is_text = pa.types.is_string(self.schema.field(column).type)
        own = f'{quoted(column)}::text COLLATE "C"' if is_text else quoted(column)
        compared = f"{own} {'>=' if inclusive else '>'} ${len(self._values) + 1}"
        query = f"SELECT * FROM ({self._asked}\n) AS q WHERE {compared}"
        return _PostgresqlRows(self._own, self._name, query, (*self._values, value), self._described)

    def batches(self) -> Iterator[Any]:
        try:
            with self._own.cursor() as cursor:
                if self._values:
                    cursor.execute(self._query, self._values)
                else:
                    cursor.execute(self._query)
                for records in cursor.fetch_record_batch():
                    yield pa.RecordBatch.from_arrays(
                        [self._column(column, index) for index, column in enumerate(records.columns)],
                        schema=self.schema,
                    )
            self._own.rollback()
        except (dbapi.Error, OSError) as error:
            of_query = (getattr(error, "sqlstate", "") or "").startswith(OF_QUERIES)
            refused = query_refused if of_query else read_fails
            raise refused(self._name, RuntimeError(told(error))) from None

    def _column(self, column: ColumnArray, index: int) -> ColumnArray:
        return fitted(column, self.schema.field(index), self._name)
