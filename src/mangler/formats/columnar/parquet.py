"""Parquet: columns in row groups, with their types."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq

from mangler.formats.columnar.compression import codec_for
from mangler.formats.columnar.format import ColumnarFormat
from mangler.formats.columnar.reading import damage, own_schema, partitions_of, rows_at_once
from mangler.formats.contract import ReadRequest
from mangler.formats.dividing import MapOrdered, Piece
from mangler.formats.location import Location, too_large
from mangler.formats.typed_aside import TypedAsideFile
from mangler.formats.typed_source import Reading, TypedPartition, TypedSource, typed_source
from mangler.language.mistake import file_trouble
from mangler.late_dataclass import dataclass
from mangler.table.settings import WriteSettings

NAME = "Parquet"
ROW_GROUP = 1 << 18
"""Rows per row group of up to 16 columns; fewer of wider tables."""
CODECS = ("zstd", "snappy", "gzip", "lz4", "brotli", "none")
ENCRYPTED = b"PARE"


def open_parquet(location: Location, request: ReadRequest) -> TypedSource:
    """Opens a Parquet file: its footer says its columns and their types."""
    damaged = damage(location, NAME)
    path = location.file()
    if location.head(4) == ENCRYPTED:
        raise file_trouble("file-encrypted", f"{location.name} is encrypted", "Decrypt it first.")
    try:
        # Read ahead, its bytes would stay in memory until the end.
        file = pq.ParquetFile(pa.OSFile(str(path)), pre_buffer=False)
        schema, aside = own_schema(file.schema_arrow.remove_metadata())
        metadata = file.metadata
        sizes = [metadata.row_group(i).total_byte_size for i in range(metadata.num_row_groups)]
    except (pa.ArrowException, OSError, ValueError, NotImplementedError) as error:
        raise damaged(error) from None
    _refuse_bomb(location, sizes)
    rows, size = metadata.num_rows, sum(sizes)

    def partitions() -> Iterator[TypedPartition]:
        batches = _batches(file, rows_at_once(rows, size))
        return partitions_of(batches, location, rows, aside, damaged)

    def make_aside(path: Path | None, source: TypedSource) -> TypedAsideFile:
        return TypedAsideFile(path, source, schema, lambda to: FORMAT.sink(to, False))

    return typed_source(
        location,
        request,
        NAME,
        Reading(schema, partitions, division=_RowGroups(file, location, aside, damaged)),
        make_aside,
        was_set_aside=aside,
    )


@dataclass(frozen=True)
class _RowGroups:
    """The division of a Parquet file: runs of row groups."""

    file: Any
    location: Location
    aside: bool
    damaged: Callable[[Exception], Exception]
    known: None = None

    def pieces(self, size: int, everywhere: MapOrdered) -> Sequence[Piece] | str:  # noqa: ARG002
        if self.location.path is None:
            return f"{self.location.compression or self.location.packed_in} is unpacked as a whole"
        metadata = self.file.metadata
        groups = [metadata.row_group(index) for index in range(metadata.num_row_groups)]
        pieces: list[Piece] = []
        start, row, bytes_here, rows_here = 0, 1, 0, 0
        for index, group in enumerate(groups):
            bytes_here, rows_here = bytes_here + group.total_byte_size, rows_here + group.num_rows
            if bytes_here >= size or index == len(groups) - 1:
                if rows_here:
                    pieces.append(Piece(len(pieces), start, index + 1, row))
                start, row, bytes_here, rows_here = index + 1, row + rows_here, 0, 0
        return [replace(piece, is_last=piece is pieces[-1]) for piece in pieces]

    def most_partitions(self, size: int) -> int:  # noqa: ARG002
        return 1 << 12

    def partitions(self, piece: Piece) -> Iterator[TypedPartition]:
        metadata = self.file.metadata
        groups = list(range(piece.start, piece.end))
        rows = sum(metadata.row_group(index).num_rows for index in groups)
        size = sum(metadata.row_group(index).total_byte_size for index in groups)
        batches = self.file.iter_batches(
            batch_size=rows_at_once(rows, size), row_groups=groups, use_threads=False
        )
        for one in partitions_of(batches, self.location, metadata.num_rows, self.aside, self.damaged):
            yield replace(one, first_row=one.first_row + piece.first_row - 1)


def _batches(file: Any, size: int) -> Iterator[Any]:
    yield from file.iter_batches(batch_size=size, use_threads=True)


def _refuse_bomb(location: Location, sizes: list[int]) -> None:
    """A page is unpacked as a whole, and a file may say that it has one of many GB."""
    largest = max(sizes, default=0)
    if location.memory is not None and largest > location.memory and location.size * 1000 < largest:
        raise too_large(location.name, largest, location.memory)


class _Writer:
    def __init__(self, stream: Any, schema: Any, settings: WriteSettings) -> None:
        codec = codec_for(settings, NAME, CODECS, "zstd")
        self._written: list[Any] = []
        self._writer = pq.ParquetWriter(
            stream, schema, compression=codec, metadata_collector=self._written, store_schema=True
        )

    def write(self, table: Any) -> None:
        self._writer.write_table(table, row_group_size=max(1, table.num_rows))

    def close(self) -> int:
        self._writer.close()
        return int(self._written[0].num_rows)


FORMAT = ColumnarFormat(
    NAME, frozenset({"parquet"}), (".parquet", ".pq"), (b"PAR1", ENCRYPTED), open_parquet, _Writer, ROW_GROUP
)
