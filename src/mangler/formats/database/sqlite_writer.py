"""A table of SQLite as it is written: rows wait in a temporary table, and one transaction puts them in their place."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Sequence
from typing import Any

import orjson
import pyarrow as pa

from mangler.formats.database.names import free_name, quoted
from mangler.formats.database.trouble import no_place, no_such_column, one_line, write_fails
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.values.format_values import format_values
from mangler.language.mistake import Refusal
from mangler.table.stored_types import is_json

WAITING = "mangler_waiting"
ROWS_AT_ONCE = 10_000
NUMERIC, TEXTUAL = ("INTEGER", "REAL", "NUMERIC"), ("TEXT",)


class SqliteWriter:
    """`how` is create, append or replace: replaced are the rows, and the table keeps its columns and its rules."""

    def __init__(self, own: sqlite3.Connection, name: str, table: str, schema: Any, how: str) -> None:
        self._own, self._table, self._how, self._schema = own, table, how, schema
        self._place = f'{name}, table "{table}"'
        self.rows = 0
        self._open = False
        self._types = [self._type(column) for column in schema]
        self._there = self._columns_there()
        self._refuse_unfit()
        columns = ", ".join(
            f"{quoted(one.name)} {kind}" for one, kind in zip(schema, self._types, strict=True)
        )
        self._columns = columns
        self._number = free_name("mangler_row", list(schema.names))
        with self._translated():
            own.execute("PRAGMA temp_store=FILE")
            own.execute(
                f"CREATE TEMP TABLE {WAITING} ({quoted(self._number)} INTEGER PRIMARY KEY, {columns})"
            )
            own.execute("BEGIN")

    def _type(self, column: Any) -> str:
        """How a new table declares the column."""
        kind = column.type
        if pa.types.is_boolean(kind):
            return "BOOLEAN"
        if pa.types.is_integer(kind) and not pa.types.is_uint64(kind):
            return "INTEGER"
        if pa.types.is_floating(kind):
            return "REAL"
        if pa.types.is_binary(kind) or pa.types.is_large_binary(kind):
            return "BLOB"
        return "TEXT"

    def _columns_there(self) -> dict[str, str]:
        """The columns of the table by their names in small letters, with their affinity; none where it is not there."""
        with self._translated():
            found = self._own.execute(f"PRAGMA main.table_xinfo({quoted(self._table)})").fetchall()
        return {row[1].casefold(): affinity_of(row[2]) for row in found}

    def _refuse_unfit(self) -> None:
        if self._how == "create" and self._there:
            raise write_fails(
                self._place,
                "it is there already",
                f'To put rows behind its own: write table "{self._table}" append. To replace its rows:'
                f' write table "{self._table}" replace.',
            )
        for column in self._schema:
            if not self._there:
                continue
            own = self._there.get(column.name.casefold())
            if own is None:
                raise no_such_column(self._place, column.name, self._there)

    def _refuse_changed(self, column: Any, kind: str) -> None:
        """Refuses values that SQLite would change for a column that is there; nulls go into any."""
        own = self._there.get(column.name.casefold())
        text_into_number = own in NUMERIC and kind in TEXTUAL
        number_into_text = own in TEXTUAL and kind in (*NUMERIC, "BOOLEAN")
        if text_into_number or number_into_text:
            raise no_place(
                self._place,
                column.name,
                "text" if text_into_number else str(column.type),
                f"has {own} there, which would change the values",
                f"Convert it before: convert {column.name} to {'integer' if text_into_number else 'text'}.",
            )

    def write(self, records: Any) -> None:
        for column, field, kind in zip(records.columns, self._schema, self._types, strict=True):
            if column.null_count < len(column):
                self._refuse_changed(field, kind)
        columns = [
            _values(column, field, self._place)
            for column, field in zip(records.columns, self._schema, strict=True)
        ]
        numbers = range(self.rows + 1, self.rows + records.num_rows + 1)
        marks = ", ".join("?" * (len(columns) + 1))
        with self._translated():
            self._own.executemany(
                f"INSERT INTO temp.{WAITING} VALUES ({marks})", zip(numbers, *columns, strict=True)
            )
        self.rows += records.num_rows

    def finish(self) -> None:
        """Puts the rows into the table, in a transaction that is not ended yet."""
        with self._translated():
            self._own.execute("COMMIT")  # the temporary table's
            self._own.execute("BEGIN IMMEDIATE")
            self._open = True
            if not self._there:
                self._own.execute(f"CREATE TABLE main.{quoted(self._table)} ({self._columns})")
            elif self._how == "replace":
                self._own.execute(f"DELETE FROM main.{quoted(self._table)}")
        names = ", ".join(map(quoted, self._schema.names))
        put = (
            f"INSERT INTO main.{quoted(self._table)} ({names}) SELECT {names} FROM temp.{WAITING}"
            f" WHERE {quoted(self._number)} BETWEEN ? AND ? ORDER BY {quoted(self._number)}"
        )
        written = 0
        for start in range(1, self.rows + 1, ROWS_AT_ONCE):
            written += self._put(put, start, min(start + ROWS_AT_ONCE - 1, self.rows))
        if written != self.rows:
            raise write_fails(self._place, f"it took {written:,} of {self.rows:,} rows")

    def _put(self, put: str, first: int, last: int) -> int:
        """Puts some rows into the table. What it has against one of them is said with its number."""
        with self._translated():
            self._own.execute("SAVEPOINT some_rows")
        try:
            return self._own.execute(put, (first, last)).rowcount
        except sqlite3.IntegrityError as error:
            self._own.execute("ROLLBACK TO some_rows")
            if first == last:
                raise write_fails(
                    self._place,
                    f"row {first:,} of the output does not fit: {one_line(error)}",
                    "Sort such rows out before: dedupe by its key, or set aside rows where ….",
                ) from None
            middle = (first + last) // 2
            return self._put(put, first, middle) + self._put(put, middle + 1, last)
        except sqlite3.Error as error:
            raise self._refusal(error) from None

    def commit(self) -> None:
        if self._open:
            with self._translated():
                self._own.execute("COMMIT")
            self._open = False

    def discard(self) -> None:
        with contextlib.suppress(sqlite3.Error):
            if self._own.in_transaction:
                self._own.execute("ROLLBACK")
        self._open = False

    @contextlib.contextmanager
    def _translated(self) -> Any:
        try:
            yield
        except sqlite3.Error as error:
            raise self._refusal(error) from None

    def _refusal(self, error: sqlite3.Error) -> Refusal:
        if "locked" in str(error):
            return write_fails(
                self._place, "another program writes to the database", "Run it again when that has ended."
            )
        return write_fails(self._place, error)


def affinity_of(declared: str) -> str:
    """What SQLite makes of values of a column that is declared so (section 3.1 of its page on data types)."""
    told = declared.upper()
    if "INT" in told:
        return "INTEGER"
    if any(word in told for word in ("CHAR", "CLOB", "TEXT")):
        return "TEXT"
    if not told or "BLOB" in told:
        return "BLOB"
    if any(word in told for word in ("REAL", "FLOA", "DOUB")):
        return "REAL"
    return "NUMERIC"


def _values(column: ColumnArray, field: Any, place: str) -> Sequence[Any]:
    kind = column.type
    if pa.types.is_dictionary(kind):
        return _values(column.dictionary_decode(), field, place)
    if is_json(kind):
        return list(column.storage.to_pylist())
    plain = (
        pa.types.is_string(kind)
        or pa.types.is_large_string(kind)
        or pa.types.is_boolean(kind)
        or pa.types.is_floating(kind)
        or (pa.types.is_integer(kind) and not pa.types.is_uint64(kind))
        or pa.types.is_binary(kind)
        or pa.types.is_large_binary(kind)
    )
    if plain:
        return list(column.to_pylist())
    if pa.types.is_nested(kind):
        return [
            None if one is None else orjson.dumps(one, default=str).decode() for one in column.to_pylist()
        ]
    try:
        return list(format_values(column).to_pylist())
    except (pa.ArrowException, TypeError):
        raise no_place(
            place, field.name, str(kind), "has no type for it", "Convert it to text, or drop it."
        ) from None
