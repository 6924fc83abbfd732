"""A second, made-up format: a first line `marks NAME NAME`, then one row per line, each cell a number of strokes.

Cells are separated by a space; `-` is null. Its columns come as integers, so types come in through the source.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import pyarrow as pa

from mangler.formats.aside import AsideRows
from mangler.formats.contract import Explanation, ParsedBatch, PendingOutput, ReadRequest, Source
from mangler.formats.delivery import Delivery, NoDelivery, deliver_to
from mangler.formats.ignored_clauses import ignored_clauses
from mangler.formats.location import Location
from mangler.kernels.arrow import ColumnArray
from mangler.table.batch import Batch, RowNumbers
from mangler.table.row_notes import RowNotes
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.settings import ReadSettings, WriteSettings

ROWS = 4


@dataclass(frozen=True)
class MarksPartition:
    index: int
    lines: list[str]
    first_row: int
    bytes_read: int
    is_last: bool
    file: str

    @property
    def row_count(self) -> int:
        return len(self.lines)

    def locate(self, rows: RowNumbers) -> RowNumbers:
        return rows + 1

    def line_of(self, row: int) -> int:
        return row + 1

    def as_read(self, rows: RowNumbers) -> ColumnArray:
        return pa.array([self.lines[row - self.first_row] for row in rows.tolist()], pa.string())


@dataclass
class MarksSource:
    name: str
    schema: Schema
    lines: list[str]
    location: Location
    found: tuple[str, ...] = ()
    detected: dict[str, str] = field(default_factory=lambda: {"format": "tally marks"})
    details: dict[str, str] = field(default_factory=lambda: {"format": "tally marks"})

    def partitions(self) -> Iterator[MarksPartition]:
        for index, start in enumerate(range(0, len(self.lines), ROWS)):
            last = start + ROWS >= len(self.lines)
            yield MarksPartition(
                index, self.lines[start : start + ROWS], start + 1, 10 * start, last, self.name
            )

    def read(self, partition: MarksPartition) -> ParsedBatch:  # type: ignore[override]
        rows = np.arange(partition.first_row, partition.first_row + partition.row_count)
        cells = [line.split(" ") for line in partition.lines]
        fits = np.array([len(row) == len(self.schema.columns) for row in cells], np.bool_)
        values = [
            [
                None if row[place] == "-" else len(row[place])
                for row, fit in zip(cells, fits, strict=True)
                if fit
            ]
            for place in range(len(self.schema.columns))
        ]
        columns = tuple(pa.array(column, pa.int64()) for column in values)
        unfit = RowNotes.for_one_reason(rows[~fits], "another number of cells")
        return ParsedBatch(Batch(columns, rows[fits], partition), unfit)

    read_as = ReadSettings()
    layout_found = False
    names_given = ()
    was_set_aside = False

    def explain_missing(self) -> Explanation | None:
        return None

    def remarks(self) -> list[str]:
        return list(self.found)

    @property
    def newest(self) -> None:
        return None

    def digest(self) -> str | None:
        return self.location.raw.digest()

    def aside_file(self, path: Path | None) -> MarksAside:
        return MarksAside(path, " ".join(["marks", *self.schema.names]))

    def close(self) -> None:
        self.location.close()


class MarksAside:
    def __init__(self, path: Path | None, head: str) -> None:
        self.path, self.head = path, head
        self.delivery: Delivery | None = None

    def add(self, rows: AsideRows) -> None:
        if self.path is None:
            return
        if self.delivery is None:
            self.delivery = deliver_to(self.path)
            self.delivery.write(f"{self.head}\n".encode())
        for row in rows.first(len(rows)):
            self.delivery.write(row.as_read + b"\n")

    def commit(self) -> None:
        if self.delivery is not None:
            self.delivery.commit()

    def discard(self) -> None:
        if self.delivery is not None:
            self.delivery.discard()


class MarksSink:
    def __init__(self, path: Path | None, rehearse: bool) -> None:
        self.path, self.rehearse, self.rows_written = path, rehearse, 0
        self.delivery: Delivery = NoDelivery()

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:  # noqa: ARG002
        self.delivery = NoDelivery() if self.rehearse else deliver_to(self.path)
        self.delivery.write(" ".join(["marks", *schema.names]).encode() + b"\n")

    def encode(self, batch: Batch) -> bytes:
        cells = [["-" if n is None else "|" * n for n in column.to_pylist()] for column in batch.columns]
        return "".join(" ".join(row) + "\n" for row in zip(*cells, strict=True)).encode()

    def write(self, encoded: bytes) -> None:
        self.delivery.write(encoded)
        self.rows_written += encoded.count(b"\n")

    def finish(self, like: Source) -> None:
        pass

    def remarks(self) -> list[str]:
        return []

    def warnings(self) -> list[str]:
        return []

    def pending(self) -> PendingOutput | None:
        inode = self.delivery.inode()
        return None if self.path is None or inode is None else PendingOutput(self.path.absolute(), inode)

    def commit(self) -> None:
        self.delivery.commit()

    def discard(self) -> None:
        self.delivery.discard()


@dataclass(frozen=True)
class TallyMarks:
    name: str = "tally marks"
    words: frozenset[str] = frozenset()
    is_written: bool = True
    most_rows: int | None = None
    suffixes: tuple[str, ...] = (".marks",)
    read_clauses: frozenset[str] = frozenset()
    write_clauses: frozenset[str] = frozenset()

    def recognises(self, location: Location) -> bool:
        return location.head(6) == b"marks "

    def parts(self, location: Location) -> tuple[str, ...]:  # noqa: ARG002
        return ()

    def open(self, location: Location, request: ReadRequest) -> MarksSource:
        content = b"".join(iter(lambda: location.content.read(1 << 16), b""))
        head, *lines = content.decode().splitlines()
        schema = Schema(tuple(Column(name, ValueType.INTEGER) for name in head.split(" ")[1:]))
        return MarksSource(
            location.name, schema, lines[: request.rows], location, ignored_clauses(request, self.name)
        )

    def sink(self, path: Path | None, rehearse: bool) -> MarksSink:
        return MarksSink(path, rehearse)
