"""A table of PostgreSQL as it is written, in one transaction.

A new table takes the rows as they come. For one that is there they wait in a temporary table, so that it is locked only
at the end, and so that what it has against a row is said with the row's number.
"""

from __future__ import annotations

import contextlib
from typing import Any

import adbc_driver_manager.dbapi as dbapi
import pyarrow as pa

from mangler.formats.database.names import free_name, quoted
from mangler.formats.database.postgresql_told import told
from mangler.formats.database.postgresql_types import declared, sent_type, taken_as
from mangler.formats.database.trouble import no_place, no_such_column, write_fails
from mangler.language.mistake import Refusal
from mangler.table.stored_types import is_json

WAITING = "mangler_waiting"
OF_ROW = "of the output does not fit"
MARK = "mangler"
"""Round the text of a block, in dollar signs: no statement of ours holds it."""
PUT = """
DO ${mark}$
DECLARE
  first bigint := 1;
  size bigint := {count};
  told text;
  detail text;
BEGIN
  WHILE first <= {count} LOOP
    BEGIN
      {put} WHERE {number} BETWEEN first AND first + size - 1 ORDER BY {number};
      first := first + size;
    EXCEPTION WHEN data_exception OR integrity_constraint_violation THEN
      IF size = 1 THEN
        GET STACKED DIAGNOSTICS told = MESSAGE_TEXT, detail = PG_EXCEPTION_DETAIL;
        RAISE EXCEPTION 'row % {of_row}: %', trim(to_char(first, '999,999,999,999')),
          concat_ws('; ', told, nullif(detail, '')) USING ERRCODE = SQLSTATE;
      END IF;
      size := (size + 1) / 2;
    END;
  END LOOP;
END ${mark}$
"""
"""Puts all rows at once. Where one of them does not fit, ever fewer at a time, until it is alone: then its number is
known after twice as many tries as its count has binary digits. The server does it, as it does not forgive an error
otherwise before the transaction is over."""
COLUMNS = """
SELECT a.attname, t.typname, a.atttypmod, t.typtype = 'e' AS enum, format_type(a.atttypid, a.atttypmod) AS told
FROM pg_attribute a JOIN pg_type t ON t.oid = a.atttypid
WHERE a.attrelid = to_regclass($1) AND a.attnum > 0 AND NOT a.attisdropped
"""


class PostgresqlWriter:
    """`how` is create, append or replace: replaced are the rows, and the table keeps its columns, keys and rights."""

    def __init__(self, own: Any, name: str, table: str, schema: Any, how: str) -> None:
        self._own, self._how, self._schema = own, how, schema
        self._place = f'{name}, table "{table}"'
        before, point, last = table.partition(".")
        self._schema_name: str | None = before if point else None
        self._table_name = last if point else table
        self._target = f"{quoted(before)}.{quoted(last)}" if point else quoted(table)
        self.rows = 0
        self._is_open = True
        self._types = [declared(column, self._place) for column in schema]
        self._sent = [sent_type(kind) for kind in self._types]
        self._number = free_name("mangler_row", list(schema.names))
        self._puts: list[str] = []
        with self._translated():
            with own.cursor() as cursor:
                cursor.execute(COLUMNS, (self._target,))
                there = {row[0]: row[1:] for row in cursor.fetchall()}
            self._is_new = not there
            self._begin(there)

    def _begin(self, there: dict[str, Any]) -> None:
        columns = ", ".join(
            f"{quoted(name)} {kind}" for name, kind in zip(self._schema.names, self._types, strict=True)
        )
        if self._is_new:
            self._run(f"CREATE TABLE {self._target} ({columns})")
            return
        if self._how == "create":
            raise write_fails(
                self._place,
                "it is there already",
                f'To put rows behind its own: write table "{self._table_name}" append. To replace its rows:'
                f' write table "{self._table_name}" replace.',
            )
        for column, kind in zip(self._schema, self._types, strict=True):
            self._puts.append(self._put(column, kind, there))
        self._run(
            f"CREATE TEMPORARY TABLE {WAITING} ({columns}, {quoted(self._number)} bigint) ON COMMIT DROP"
        )

    def _put(self, column: Any, kind: str, there: dict[str, Any]) -> str:
        """What is put into a column of the table that is there."""
        if column.name not in there:
            raise no_such_column(self._place, column.name, there)
        target, modifier, is_enum, told = there[column.name]
        cast = taken_as(kind, target, modifier, is_enum)
        if cast is None:
            raise no_place(
                self._place,
                column.name,
                kind,
                f"has {told} there, which could change the values",
                "Convert it before to the type that the table has.",
            )
        return quoted(column.name) + (f"::{told}" if cast == "cast" else cast)

    def write(self, records: Any) -> None:
        arrays = [
            self._column(column, index, kind)
            for index, (column, kind) in enumerate(zip(records.columns, self._sent, strict=True))
        ]
        names = list(self._schema.names)
        if not self._is_new:
            arrays.append(pa.array(range(self.rows + 1, self.rows + records.num_rows + 1), pa.int64()))
            names.append(self._number)
        with self._translated(), self._own.cursor() as cursor:
            cursor.adbc_ingest(
                self._table_name if self._is_new else WAITING,
                pa.RecordBatch.from_arrays(arrays, names=names),
                mode="append",
                db_schema_name=self._schema_name if self._is_new else None,
                temporary=not self._is_new,
            )
        self.rows += records.num_rows

    def _column(self, column: Any, index: int, kind: Any) -> Any:
        if is_json(column.type):
            column = column.storage
        if pa.types.is_dictionary(column.type):
            column = column.dictionary_decode()
        try:
            return column if column.type == kind else column.cast(kind)
        except pa.ArrowInvalid as error:
            name = self._schema.names[index]
            raise no_place(
                self._place, name, str(column.type), f"takes {kind}: {error}", "Convert it before."
            ) from None

    def finish(self) -> None:
        with self._translated():
            if self._is_new:
                taken = self._count(self._target)
            else:
                if self._how == "replace":
                    self._run(f"DELETE FROM {self._target}")
                taken = self._put_rows()
        if taken != self.rows:
            raise write_fails(self._place, f"it took {taken:,} of {self.rows:,} rows")

    def _put_rows(self) -> int:
        """Puts the rows that wait into the table. What it has against one of them is said with its number."""
        names = ", ".join(map(quoted, self._schema.names))
        put = f"INSERT INTO {self._target} ({names}) SELECT {', '.join(self._puts)} FROM {WAITING}"
        self._run(PUT.format(count=self.rows, put=put, number=quoted(self._number), mark=MARK, of_row=OF_ROW))
        return self.rows

    def _count(self, table: str) -> int:
        with self._own.cursor() as cursor:
            cursor.execute(f"SELECT count(*) FROM {table}")
            return int(cursor.fetchone()[0])

    def _run(self, statement: str) -> None:
        with self._own.cursor() as cursor:
            cursor.execute(statement)

    def commit(self) -> None:
        if self._is_open:
            with self._translated():
                self._own.commit()
            self._is_open = False

    def discard(self) -> None:
        if self._is_open:
            with contextlib.suppress(dbapi.Error):
                self._own.rollback()
            self._is_open = False

    @contextlib.contextmanager
    def _translated(self) -> Any:
        try:
            yield
        except (dbapi.Error, OSError) as error:
            raise self._refusal(error) from None

    def _refusal(self, error: Exception) -> Refusal:
        message = told(error)
        advice = "Sort such rows out before: dedupe by its key, or set aside rows where …." * (
            OF_ROW in message
        )
        return write_fails(self._place, message, advice)
