"""Where the cleaned rows go: a file or pipe of delimited text, nowhere, or memory."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Protocol

import pyarrow as pa

from mangler.engine.recording import Put
from mangler.formats.delimited.extract import Extract
from mangler.formats.delimited.writer import LineWriter, line_writer
from mangler.formats.delivery import Delivery, NoDelivery, deliver_to
from mangler.language.mistake import wrong_recipe
from mangler.language.source import Place
from mangler.table.batch import Batch
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.settings import WriteSettings
from mangler.table.types import ARROW


class Destination(Protocol):
    def open(self, extract: Extract, schema: Schema, settings: WriteSettings, place: Place | None) -> None:
        """`place` is where the recipe says how to write."""
        ...

    def prepare(self, batch: Batch) -> Any:
        """Called from several threads at once; what it gives is handed to `take` in the order of the rows."""
        ...

    def take(self, prepared: Any) -> None: ...

    def finish(self, extract: Extract) -> None:
        """All rows are there."""
        ...

    def put(self) -> Put | None:
        """The file that `commit` puts in its place; None where it is no file."""
        ...

    def commit(self) -> None: ...

    def discard(self) -> None: ...


class DelimitedOutput:
    """Delimited text to a path; to standard output for None; nowhere when it rehearses."""

    def __init__(self, path: Path | None, rehearse: bool = False) -> None:
        self.path = path
        self._rehearse = rehearse
        self._delivery: Delivery | None = None
        self._writer: LineWriter | None = None
        self._line_end = b"\n"
        self._owed = b""
        self._ends_empty = False
        """Whether the last line is an empty one: that of a null in a table of one column."""

    def open(self, extract: Extract, schema: Schema, settings: WriteSettings, place: Place | None) -> None:
        refuse_lists(schema)
        self._writer = line_writer(schema.names, settings, extract.dialect, place)
        self._line_end = self._writer.line_end
        header = self._writer.header()
        self._delivery = NoDelivery() if self._rehearse else deliver_to(self.path)
        self.take(header)

    def prepare(self, batch: Batch) -> bytes | memoryview:
        assert self._writer is not None
        return self._writer.lines(batch)

    def take(self, prepared: bytes | memoryview) -> None:
        """The last line end is owed until more comes: an extract may end without one, and so does its output."""
        assert self._delivery is not None
        if not len(prepared):
            return
        if self._owed:
            self._delivery.write(self._owed)
        end = len(self._line_end)
        before_last = bytes(memoryview(prepared)[-2 * end : -end])
        self._ends_empty = len(prepared) == end or before_last == self._line_end
        self._delivery.write(memoryview(prepared)[: len(prepared) - end])
        self._owed = self._line_end

    def finish(self, extract: Extract) -> None:
        """An empty line without a line end would be no line: the row of a null would be lost."""
        assert self._delivery is not None
        if extract.ends_with_line_end or self._ends_empty:
            self._delivery.write(self._owed)

    def put(self) -> Put | None:
        inode = self._delivery.inode() if self._delivery is not None else None
        return None if self.path is None or inode is None else Put(self.path.absolute(), inode)

    def commit(self) -> None:
        if self._delivery is not None:
            self._delivery.commit()

    def discard(self) -> None:
        if self._delivery is not None:
            self._delivery.discard()


def refuse_lists(schema: Schema) -> None:
    """Delimited text has no cell for a list."""
    for column in schema.columns:
        if column.type is ValueType.LIST:
            raise wrong_recipe(
                f'"{column.name}" is a list, which has no place in a cell of delimited text',
                f'Make a text of it: make {column.name} = joined({column.name}, "; ").',
            )


class InMemory:
    """Keeps the cleaned rows as an Arrow table."""

    def __init__(self) -> None:
        self._columns: tuple[Column, ...] = ()
        self._batches: list[pa.RecordBatch] = []
        self.table: pa.Table = pa.table({})

    def open(
        self,
        extract: Extract,  # noqa: ARG002
        schema: Schema,
        settings: WriteSettings,  # noqa: ARG002
        place: Place | None,  # noqa: ARG002
    ) -> None:
        self._columns = schema.columns

    def prepare(self, batch: Batch) -> pa.RecordBatch:
        return batch.to_arrow([column.name for column in self._columns])

    def take(self, prepared: pa.RecordBatch) -> None:
        self._batches.append(prepared)

    def finish(self, extract: Extract) -> None:  # noqa: ARG002
        empty = pa.schema([(column.name, ARROW[column.type]) for column in self._columns])
        self.table = pa.Table.from_batches(self._batches) if self._batches else empty.empty_table()

    def put(self) -> Put | None:
        return None

    def commit(self) -> None:
        pass

    def discard(self) -> None:
        pass
