"""Cleaned rows into a file of columns: Parquet, an Arrow file, an Arrow stream."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from functools import cache
from pathlib import Path
from typing import Any, Protocol

import pyarrow as pa

from mangler.formats.contract import Source
from mangler.formats.delivered_sink import DeliveredSink
from mangler.formats.stream import DeliveryStream
from mangler.language.mistake import wrong_recipe
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.select import quote_name
from mangler.table.settings import WriteSettings
from mangler.table.stored_types import arrow_type, file_column, to_stored, to_worked

USUAL_COLUMNS = 16
FEWEST_ROWS = 1024
LARGEST_CHUNK = 256 << 20
"""Bytes that wait at most to be written together."""


@cache
def _thread() -> ThreadPoolExecutor:
    """What writes chunks, of all sinks one after the other: to encode one takes as long as several partitions."""
    return ThreadPoolExecutor(1, "mangler-chunks")


class Writer(Protocol):
    """What writes record batches in a format."""

    def write(self, table: Any) -> None: ...

    def close(self) -> int:
        """Ends the file, and says how many rows it holds."""
        ...


MakeWriter = Callable[[Any, Any, WriteSettings], Writer]
"""Takes a stream of bytes, an Arrow schema and the settings."""


class ColumnarSink(DeliveredSink):
    """Rows are written in chunks of the same number, so that the file does not depend on how they came."""

    def __init__(
        self, path: Path | None, rehearse: bool, format_name: str, make_writer: MakeWriter, chunk_rows: int
    ) -> None:
        super().__init__(path, rehearse)
        self._format_name = format_name
        self._make_writer, self._chunk_rows = make_writer, chunk_rows
        self._stream: DeliveryStream | None = None
        self._writer: Writer | None = None
        self._schema: Any = None
        self._waiting: list[Any] = []
        self._waiting_rows = self._waiting_bytes = self._rows_before = 0
        self._in_work: Future[None] | None = None
        """The chunk that is being written while the next rows are read."""

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:  # noqa: ARG002
        self._schema = pa.schema([(column.name, arrow_type(column)) for column in schema.columns])
        self._refuse_other_types(settings)
        columns = max(1, len(schema.columns))
        self._chunk_rows = max(FEWEST_ROWS, self._chunk_rows * USUAL_COLUMNS // max(columns, USUAL_COLUMNS))
        self._stream = DeliveryStream(self._deliver())
        self._writer = self._make_writer(pa.PythonFile(self._stream, mode="w"), self._schema, settings)
        if self.rows_before is not None:
            for records in self.rows_before.records():
                self._rows_before += records.num_rows
                self.write(pa.RecordBatch.from_arrays(records.columns, schema=self._schema))

    def _refuse_other_types(self, settings: WriteSettings) -> None:
        """Refuses columns of types that the format cannot hold."""
        for field in self._schema:
            try:
                only = pa.schema([field])
                writer = self._make_writer(pa.BufferOutputStream(), only, settings)
                writer.write(only.empty_table())
                writer.close()
            except (pa.ArrowNotImplementedError, pa.ArrowInvalid, pa.ArrowTypeError):
                name = quote_name(field.name)
                raise wrong_recipe(
                    "type-not-written",
                    f'"{field.name}" is {field.type}, which {self._format_name} cannot hold',
                    f"Write convert {name} to text, or drop columns {name}.",
                ) from None

    def encode(self, batch: Batch) -> Any:
        columns = [
            array if array.type == field.type else array.cast(field.type)
            for array, field in zip(batch.columns, self._schema, strict=True)
        ]
        if not columns:
            return pa.table({})
        return pa.RecordBatch.from_arrays(columns, schema=self._schema)

    def write(self, encoded: Any) -> None:
        if not encoded.num_rows:
            return
        self._waiting.append(encoded)
        self._waiting_rows += encoded.num_rows
        self._waiting_bytes += encoded.get_total_buffer_size()
        while self._waiting_rows >= self._chunk_rows:
            self._write_chunk(self._chunk_rows)
        if self._waiting_bytes > LARGEST_CHUNK:
            self._write_chunk(self._waiting_rows)

    def _write_chunk(self, rows: int) -> None:
        assert self._writer is not None
        table = pa.Table.from_batches(self._waiting, self._schema)
        chunk = table.slice(0, rows)
        self._wait()
        self._in_work = _thread().submit(self._writer.write, _with_own_dictionaries(chunk))
        rest = table.slice(rows)
        self._waiting = rest.to_batches() if rest.num_rows else []
        self._waiting_rows = rest.num_rows
        self._waiting_bytes = rest.nbytes if rest.num_rows else 0

    def _wait(self) -> None:
        """Until the chunk before is written; what went wrong with it is raised here."""
        work, self._in_work = self._in_work, None
        if work is not None:
            work.result()

    def finish(self, like: Source) -> None:  # noqa: ARG002
        assert self._writer is not None
        if self._waiting_rows:
            self._write_chunk(self._waiting_rows)
        self._wait()
        self.rows_written = self._writer.close() - self._rows_before

    def discard(self) -> None:
        if self._stream is not None:
            self._stream.abandoned = True
        with contextlib.suppress(Exception):  # why it is discarded is known already
            self._wait()
        super().discard()


def _with_own_dictionaries(table: Any) -> Any:
    """The chunk with dictionaries of its own values in the order in which they come, whatever was read together."""
    for index, field in enumerate(table.schema):
        if pa.types.is_dictionary(field.type):
            own = file_column(field.name, field.type)
            worked = [to_worked(chunk, own) for chunk in table.column(index).chunks]
            encoded = to_stored(pa.concat_arrays(worked), own)
            table = table.set_column(index, field, pa.chunked_array([encoded], field.type))
    return table
