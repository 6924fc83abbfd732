"""The Arrow stream: record batches one after the other, as programs hand them on."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc

from mangler.formats.columnar.compression import codec_for
from mangler.formats.columnar.format import ColumnarFormat
from mangler.formats.columnar.reading import (
    FEWEST_ROWS,
    MOST_ROWS,
    damage,
    own_schema,
    partitions_of,
    rows_at_once,
)
from mangler.formats.contract import ReadRequest
from mangler.formats.location import Location
from mangler.formats.typed_aside import TypedAsideFile
from mangler.formats.typed_source import Reading, TypedPartition, TypedSource, typed_source
from mangler.table.settings import WriteSettings

NAME = "Arrow stream"
BATCH = 1 << 16
"""Rows per record batch of up to 16 columns; fewer of wider tables."""
CODECS = ("none", "zstd", "lz4")


def open_stream(location: Location, request: ReadRequest) -> TypedSource:
    """Opens a stream: its first message says its columns and their types."""
    return open_batches(location, request, FORMAT, pa.ipc.open_stream, iter)


def open_batches(
    location: Location,
    request: ReadRequest,
    own: ColumnarFormat,
    opener: Callable[[Any], Any],
    batches_of: Callable[[Any], Iterator[Any]],
) -> TypedSource:
    """Opens a file of record batches with one of Arrow's readers."""
    damaged = damage(location, own.name)
    path = location.file()
    try:
        reader = opener(pa.OSFile(str(path)))
        schema, aside = own_schema(reader.schema.remove_metadata())
    except (pa.ArrowException, OSError, ValueError, NotImplementedError) as error:
        raise damaged(error) from None

    def partitions() -> Iterator[TypedPartition]:
        return partitions_of(sliced(batches_of(reader)), location, 0, aside, damaged)

    def make_aside(path: Path | None, source: TypedSource) -> TypedAsideFile:
        return TypedAsideFile(path, source, schema, lambda to: own.sink(to, False))

    return typed_source(
        location, request, own.name, Reading(schema, partitions), make_aside, was_set_aside=aside
    )


def sliced(batches: Iterator[Any]) -> Iterator[Any]:
    """The batches in pieces of a bounded size; each is checked, as what is in the file may be anything."""
    for batch in batches:
        batch.validate(full=True)
        at_once = max(FEWEST_ROWS, min(MOST_ROWS, rows_at_once(batch.num_rows, batch.nbytes)))
        for start in range(0, batch.num_rows, at_once):
            yield batch.slice(start, at_once)


class StreamWriter:
    """Writes record batches of one size."""

    make = staticmethod(pa.ipc.new_stream)

    def __init__(self, stream: Any, schema: Any, settings: WriteSettings) -> None:
        codec = codec_for(settings, NAME, CODECS, "none")
        options = pa.ipc.IpcWriteOptions(
            compression=None if codec == "none" else codec, emit_dictionary_deltas=True
        )
        self._writer = self.make(stream, schema, options=options)
        self._rows = 0
        self._dictionaries: dict[int, Any] = {}

    def write(self, table: Any) -> None:
        for batch in table.combine_chunks().to_batches():
            columns = [self._with_known(index, column) for index, column in enumerate(batch.columns)]
            self._writer.write_batch(pa.RecordBatch.from_arrays(columns, schema=batch.schema))
            self._rows += batch.num_rows

    def _with_known(self, index: int, column: Any) -> Any:
        """A column of categories whose dictionary starts with all values so far: a file has one that only grows."""
        if not pa.types.is_dictionary(column.type):
            return column
        values = column.dictionary
        known = self._dictionaries.get(index, values.slice(0, 0))
        fresh = values.filter(pc.invert(pc.is_in(values, value_set=known))) if len(known) else values
        known = pa.concat_arrays([known, fresh]) if len(fresh) else known
        self._dictionaries[index] = known
        places = pc.index_in(values, value_set=known)
        indices = places.take(column.indices).cast(column.type.index_type)
        return pa.DictionaryArray.from_arrays(indices, known, ordered=column.type.ordered)

    def close(self) -> int:
        self._writer.close()
        return self._rows


FORMAT = ColumnarFormat(
    NAME, frozenset({"arrows"}), (".arrows",), (b"\xff\xff\xff\xff",), open_stream, StreamWriter, BATCH
)
