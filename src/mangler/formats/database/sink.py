"""A table of a database as an output: it is there as a whole, or it is as it was."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pyarrow as pa

from mangler.formats.contract import PendingOutput, Source
from mangler.formats.database.connecting import connect
from mangler.formats.database.contract import Connection, TableWriter
from mangler.language.mistake import wrong_recipe
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings
from mangler.table.stored_types import arrow_type

WRITE_CLAUSES = frozenset({"table", "create", "append", "replace"})


class TableSink:
    """Writes a table. The address may name it behind `#`; the recipe says how: create, append or replace."""

    path: Path | None = None

    def __init__(self, address: str, table: str, rehearse: bool) -> None:
        self._address, self._named, self._rehearse = address, table, rehearse
        self._connection: Connection | None = None
        self._writer: TableWriter | None = None
        self._schema: Any = None
        self.table = table
        self.rows_rehearsed = 0

    @property
    def rows_written(self) -> int:
        return self._writer.rows if self._writer is not None else self.rows_rehearsed

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        self.table = settings.table or self._named
        if not self.table:
            raise wrong_recipe(
                "table-needed",
                f"{self._address} is a database, and the recipe does not say which table is written",
                'Write table "clean" in write, or name it behind #: ' + f"{self._address}#clean",
            )
        how = settings.table_rows or "create"
        if how == "replace" and self._is_read(like):
            raise wrong_recipe(
                "file-would-be-lost",
                f'the table "{self.table}" is the extract itself',
                "Write another table: the rows of this one would be lost.",
                settings.spans.get("table"),
            )
        self._schema = pa.schema([(column.name, arrow_type(column)) for column in schema.columns])
        if self._rehearse:
            return
        self._connection = connect(self._address, writes=True)
        self._writer = self._connection.writer(self.table, self._schema, how)

    def _is_read(self, like: Source) -> bool:
        """Whether it is the table that the extract is read from."""
        place, _, table = like.name.partition("#")
        read = like.read_as.table or table
        return place == self._address and read.casefold() == self.table.casefold()

    def encode(self, batch: Batch) -> Any:
        return pa.RecordBatch.from_arrays(list(batch.columns), schema=self._schema)

    def write(self, encoded: Any) -> None:
        if self._writer is not None:
            self._writer.write(encoded)
        else:
            self.rows_rehearsed += encoded.num_rows

    def finish(self, like: Source) -> None:  # noqa: ARG002
        if self._writer is not None:
            self._writer.finish()

    def remarks(self) -> list[str]:
        return []

    def warnings(self) -> list[str]:
        return []

    def pending(self) -> PendingOutput | None:
        return None

    def commit(self) -> None:
        if self._writer is not None:
            self._writer.commit()
            self._close()

    def discard(self) -> None:
        if self._writer is not None:
            self._writer.discard()
        self._close()

    def _close(self) -> None:
        # How many rows there were is asked for afterwards.
        if self._connection is not None:
            self._connection.close()
            self._connection = None

    @property
    def place(self) -> str:
        return f'{self._address}, table "{self.table}"'
