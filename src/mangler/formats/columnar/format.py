"""What the formats of columns have in common."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from mangler.formats.columnar.sink import ColumnarSink, MakeWriter
from mangler.formats.contract import ReadRequest
from mangler.formats.location import Location
from mangler.formats.typed_source import COMMON_CLAUSES, TypedSource
from mangler.late_dataclass import dataclass

WRITE_CLAUSES = frozenset({"format", "compression"})


@dataclass(frozen=True)
class ColumnarFormat:
    """A format of columns: Parquet, Arrow file, Arrow stream."""

    name: str
    words: frozenset[str]
    suffixes: tuple[str, ...]
    starts: tuple[bytes, ...]
    opener: Callable[[Location, ReadRequest], TypedSource]
    make_writer: MakeWriter
    chunk_rows: int
    read_clauses: frozenset[str] = COMMON_CLAUSES
    write_clauses: frozenset[str] = WRITE_CLAUSES
    is_written: bool = True
    most_rows: int | None = None

    def recognises(self, location: Location) -> bool:
        return location.head(8).startswith(self.starts)

    def parts(self, location: Location) -> tuple[str, ...]:  # noqa: ARG002
        return ()

    def open(self, location: Location, request: ReadRequest) -> TypedSource:
        return self.opener(location, request)

    def sink(self, path: Path | None, rehearse: bool) -> ColumnarSink:
        return ColumnarSink(path, rehearse, self.name, self.make_writer, self.chunk_rows)
