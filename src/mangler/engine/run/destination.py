"""Where the cleaned rows go: a file in the format that its name says, or memory."""

from __future__ import annotations

from pathlib import Path

import pyarrow as pa

from mangler.addresses import is_database, name_of
from mangler.formats.contract import Encoded, PendingOutput, Sink, Source
from mangler.formats.registry import format_of_output, remote_sink, sink_for, table_sink
from mangler.table.batch import Batch
from mangler.table.schema import Column, Schema
from mangler.table.settings import WriteSettings
from mangler.table.stored_types import arrow_type


class FileOutput:
    """A file, or standard output for None, in a format that is chosen when the source is known.

    With `behind` the rows go behind those that are in the file; a file that is not there is made. `address`, in the
    place of a path, is that of a database whose table is written, or of a file that is not on this machine.
    """

    def __init__(
        self, path: Path | None, rehearse: bool = False, behind: bool = False, address: str = ""
    ) -> None:
        self.path, self.address = path, address
        self.behind = behind
        self.went_behind = False
        """Whether there were rows before."""
        self._rehearse = rehearse
        self._sink: Sink | None = None
        self._remarks: list[str] = []
        self._folder: Path | None = None

    @property
    def rows_written(self) -> int:
        return 0 if self._sink is None else self._sink.rows_written

    @property
    def place(self) -> str:
        """Where the rows are, for messages: the file, the folder of several, or the table."""
        if self.address:
            return str(getattr(self._sink, "place", self.address))
        if self.path is None:
            return "standard output"
        return f"{self._folder}/" if self._folder is not None else str(self.path)

    def most_rows(self, like: Source, settings: WriteSettings) -> int | None:
        """How many rows there is a place for; None for any number. Of several files each has its own place."""
        if settings.makes_folder or is_database(self.address):
            return None
        path = Path(name_of(self.address)) if self.address else self.path
        return format_of_output(like, path, settings).most_rows

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        if self.address:
            if is_database(self.address):
                self._sink, self._remarks = table_sink(self.address, self._rehearse, settings)
            else:
                self._sink, self._remarks = remote_sink(self.address, like, self._rehearse, settings)
            self._sink.open(schema, settings, like)
            return
        if self.behind and self.path is not None:
            from mangler.formats.appending import holds_nothing, refuse_unfit, sink_behind

            refuse_unfit(format_of_output(like, self.path, settings), self.path, settings)
            if self.path.exists() and not holds_nothing(self.path):
                opened = sink_behind(like, self.path, self._rehearse, settings, schema)
                self._sink, self._remarks = opened
                self.went_behind = True
                return
        if settings.makes_folder and self.path is not None:
            from mangler.formats.folder_sink import folder_of

            self._folder = folder_of(self.path)
        self._sink, self._remarks = sink_for(like, self.path, self._rehearse, settings)
        self._sink.open(schema, settings, like)

    def encode(self, batch: Batch) -> Encoded:
        assert self._sink is not None
        return self._sink.encode(batch)

    def write(self, encoded: Encoded) -> None:
        assert self._sink is not None
        self._sink.write(encoded)

    def finish(self, like: Source) -> None:
        assert self._sink is not None
        self._sink.finish(like)

    def remarks(self) -> list[str]:
        return [] if self._sink is None else [*self._remarks, *self._sink.remarks()]

    def warnings(self) -> list[str]:
        return [] if self._sink is None else self._sink.warnings()

    def pending(self) -> PendingOutput | None:
        return None if self._sink is None else self._sink.pending()

    def commit(self) -> None:
        if self._sink is not None:
            self._sink.commit()

    def discard(self) -> None:
        if self._sink is not None:
            self._sink.discard()


class Nowhere:
    """What sinks have in common that put nothing in a place, and have nothing to say of it."""

    path: Path | None = None

    def finish(self, like: Source) -> None:
        pass

    def remarks(self) -> list[str]:
        return []

    def warnings(self) -> list[str]:
        return []

    def pending(self) -> PendingOutput | None:
        return None

    def commit(self) -> None:
        pass

    def discard(self) -> None:
        pass


class InMemory(Nowhere):
    """Keeps the cleaned rows as an Arrow table."""

    def __init__(self) -> None:
        self._columns: tuple[Column, ...] = ()
        self._batches: list[pa.RecordBatch] = []
        self.table: pa.Table = pa.table({})
        self.rows_written = 0

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:  # noqa: ARG002
        self._columns = schema.columns

    def encode(self, batch: Batch) -> tuple[pa.RecordBatch, int]:
        return batch.to_arrow([column.name for column in self._columns]), len(batch)

    def write(self, encoded: tuple[pa.RecordBatch, int]) -> None:
        self._batches.append(encoded[0])
        self.rows_written += encoded[1]

    def finish(self, like: Source) -> None:  # noqa: ARG002
        empty = pa.schema([(column.name, arrow_type(column)) for column in self._columns])
        self.table = pa.Table.from_batches(self._batches) if self._batches else empty.empty_table()
