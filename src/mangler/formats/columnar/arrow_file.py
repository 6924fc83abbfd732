"""The Arrow file: record batches with a directory of them at the end."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pyarrow as pa

from mangler.formats.columnar.arrow_stream import BATCH, StreamWriter, open_batches
from mangler.formats.columnar.format import ColumnarFormat
from mangler.formats.contract import ReadRequest
from mangler.formats.location import Location
from mangler.formats.typed_source import TypedSource

NAME = "Arrow file"


def open_file(location: Location, request: ReadRequest) -> TypedSource:
    """Opens an Arrow file: its schema says its columns and their types."""
    return open_batches(location, request, FORMAT, pa.ipc.open_file, _batches_of)


def _batches_of(reader: Any) -> Iterator[Any]:
    return (reader.get_batch(index) for index in range(reader.num_record_batches))


class FileWriter(StreamWriter):
    make = staticmethod(pa.ipc.new_file)


FORMAT = ColumnarFormat(
    NAME, frozenset({"arrow"}), (".arrow", ".feather", ".ipc"), (b"ARROW1",), open_file, FileWriter, BATCH
)
