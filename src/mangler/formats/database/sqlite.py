"""SQLite by the standard library: read in one snapshot, written by one transaction at the end.

A column of SQLite holds values of any type, so its type is that of all of them, which the database is asked for first.
"""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing
from pathlib import Path
from typing import Any
from urllib.parse import quote

import pyarrow as pa

from mangler.addresses import file_of
from mangler.formats.database.contract import Connection, Query, Rows, TableWriter
from mangler.formats.database.names import quoted
from mangler.formats.database.sqlite_writer import SqliteWriter
from mangler.formats.database.trouble import not_reached, query_refused, read_fails
from mangler.language.mistake import extract_does_not_fit, reason
from mangler.language.placeholders import names_in, with_places
from mangler.late_dataclass import dataclass

ROWS_AT_ONCE = 20_000
EXACT_IN_FLOAT = 2**53
WAIT = 10.0
"""Seconds that are waited for another program to unlock the database."""
KINDS = ("integer", "real", "text", "blob")
MAGIC = b"SQLite format 3\0"
LARGEST_PART = 400
"""Columns whose values are asked for in one query."""


def connect(address: str, name: str, writes: bool) -> Connection:
    """Opens a file of SQLite. One that is only read is never made or changed."""
    path = file_of(address)
    if path is None:
        raise not_reached(
            name,
            "its address names no file",
            "Write sqlite:///clean.db, or sqlite:////data/clean.db from the root.",
        )
    _refuse_unusable(path, name, writes)
    is_new = not path.exists()
    mode = "rwc" if writes else "ro"
    try:
        found = sqlite3.connect(
            f"file:{quote(str(path.absolute()))}?mode={mode}",
            uri=True,
            timeout=WAIT,
            isolation_level=None,
            check_same_thread=False,
        )
        if not writes:
            found.execute("PRAGMA query_only=ON")
            found.execute("BEGIN")
        found.execute("SELECT count(*) FROM sqlite_master").fetchone()
    except sqlite3.Error as error:
        raise not_reached(name, error) from None
    return SqliteConnection(found, name, path if is_new else None)


def _refuse_unusable(path: Path, name: str, writes: bool) -> None:
    try:
        if not path.exists():
            if not path.parent.is_dir():
                raise not_reached(name, f"the folder {path.parent} does not exist", "Make the folder first.")
            if not writes:
                raise not_reached(name, f"the file {path} does not exist")
            return
        if path.is_dir():
            raise not_reached(name, f"{path} is a folder", "Name a file in it.")
        with path.open("rb") as file:
            head = file.read(len(MAGIC))
    except OSError as error:
        raise not_reached(name, reason(error)) from None
    if head and head != MAGIC:
        raise not_reached(name, f"{path} is not a database of SQLite", "Is it the right file?")


@dataclass(frozen=True)
class SqliteConnection:
    own: sqlite3.Connection
    name: str
    made: Path | None = None
    """The file, where it was not there before."""

    def tables(self) -> list[str]:
        found = self.own.execute(
            "SELECT name FROM sqlite_master WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\'"
            " ORDER BY name"
        )
        return [name for (name,) in found]

    def table(self, name: str) -> Rows | None:
        own = next((one for one in self.tables() if one.casefold() == name.casefold()), None)
        return None if own is None else self._rows(f"SELECT * FROM {quoted(own)}", ())

    def query(self, query: Query) -> Rows:
        values = [_bound(query.values[name]) for name in names_in(query.text)]
        return self._rows(with_places(query.text, lambda number: f"?{number}").strip().rstrip(";"), values)

    def _rows(self, query: str, values: Sequence[Any]) -> Rows:
        try:
            with closing(self.own.execute(query, values)) as found:
                names = [column[0] for column in found.description or ()]
            return _SqliteRows(self, query, values, names)
        except (sqlite3.Error, sqlite3.Warning) as error:
            raise query_refused(self.name, error) from None

    def writer(self, table: str, schema: Any, how: str) -> TableWriter:
        return SqliteWriter(self.own, self.name, table, schema, how)

    def close(self) -> None:
        self.own.close()
        with contextlib.suppress(OSError):
            if self.made is not None and not self.made.stat().st_size:  # nothing was written into it
                self.made.unlink()


class _SqliteRows:
    """The rows of a query, whose values were all looked at for their types."""

    def __init__(
        self,
        connection: SqliteConnection,
        query: str,
        values: Sequence[Any],
        names: list[str],
        schema: Any = None,
    ) -> None:
        """`schema` is that of rows of which these are some."""
        self._connection, self._query, self._values = connection, query, values
        self.remarks: list[str] = []
        if schema is not None:
            self.schema = schema
            return
        types = []
        for start in range(0, len(names), LARGEST_PART):
            types += self._types(names, start, min(start + LARGEST_PART, len(names)))
        self.schema = pa.schema(list(zip(names, types, strict=True)))

    def above(self, column: str, value: Any, inclusive: bool) -> Rows:
        compared = f"{quoted(column)} COLLATE BINARY {'>=' if inclusive else '>'} ?{len(self._values) + 1}"
        query = f"SELECT * FROM ({self._query}\n) WHERE {compared}"
        return _SqliteRows(
            self._connection, query, [*self._values, _bound(value)], self.schema.names, self.schema
        )

    def _types(self, names: list[str], start: int, end: int) -> list[Any]:
        asked = ", ".join(
            ", ".join(f"max(typeof(c{index})='{kind}')" for kind in KINDS)
            + f", max(CASE WHEN typeof(c{index})='integer' THEN abs(max(c{index}, -9223372036854775807)) END)"
            for index in range(start, end)
        )
        columns = ", ".join(f"c{index}" for index in range(len(names)))
        # A line feed ends a comment at the end of the query.
        query = f"WITH q({columns}) AS ({self._query}\n) SELECT {asked} FROM q"
        found = self._connection.own.execute(query, self._values).fetchone()
        width = len(KINDS) + 1
        return [
            self._type(names[start + place], found[place * width : (place + 1) * width])
            for place in range(end - start)
        ]

    def _type(self, name: str, seen: Sequence[Any]) -> Any:
        kinds = {kind for kind, there in zip(KINDS, seen, strict=False) if there}
        if kinds == {"integer"}:
            return pa.int64()
        if kinds == {"real"} or (kinds == {"integer", "real"} and seen[-1] <= EXACT_IN_FLOAT):
            return pa.float64()
        if kinds == {"blob"}:
            return pa.binary()
        if "blob" in kinds:
            raise extract_does_not_fit(
                "mixed-types",
                f'{self._connection.name}: the column "{name}" holds bytes (blob) and other values',
                f"Choose one kind in a query: CASE typeof({quoted(name)}) WHEN 'blob' THEN NULL ELSE … END.",
            )
        if len(kinds) > 1:
            told = " and ".join(sorted(kinds))
            self.remarks.append(f"the column {name} holds values of several kinds ({told}), read as text")
        return pa.string()

    def batches(self) -> Iterator[Any]:
        cursor = self._connection.own.cursor()
        cursor.row_factory = None
        try:
            cursor.execute(self._query, self._values)
            while rows := cursor.fetchmany(ROWS_AT_ONCE):
                columns = zip(*rows, strict=True)
                arrays = [
                    _array(values, kind) for values, kind in zip(columns, self.schema.types, strict=True)
                ]
                yield pa.RecordBatch.from_arrays(arrays, schema=self.schema)
        except (sqlite3.Error, UnicodeDecodeError) as error:
            raise read_fails(self._connection.name, error) from None
        finally:
            with contextlib.suppress(sqlite3.Error):
                cursor.close()
                # What was read is not locked any longer: the output may be another table of the same file.
                self._connection.own.execute("COMMIT")


def _array(values: Sequence[Any], kind: Any) -> Any:
    if pa.types.is_string(kind):
        values = [_text(one) if type(one) in (int, float) else one for one in values]
    elif pa.types.is_floating(kind):
        values = [float(one) if type(one) is int else one for one in values]
    return pa.array(values, kind)


def _text(number: int | float) -> str:
    """A number among texts, with all its digits."""
    return str(number) if isinstance(number, int) else repr(number)


def _bound(value: Any) -> Any:
    """A value as the driver takes it, which has no decimals."""
    if value is None or isinstance(value, (int, str)):
        return value
    return float(value)
