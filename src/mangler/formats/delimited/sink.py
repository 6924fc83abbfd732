"""Cleaned rows as delimited text: into a file, a pipe, or nowhere."""

from __future__ import annotations

from pathlib import Path

from mangler.formats.cells import refuse_lists
from mangler.formats.contract import PendingOutput, Source
from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.source import DelimitedSource
from mangler.formats.delimited.writer import Lines, LineWriter, line_writer
from mangler.formats.delivery import Delivery, NoDelivery, deliver_to
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings

DEFAULT_DIALECT = Dialect(",", '"', "\n", byte_order_mark=False)


class DelimitedSink:
    """Delimited text to a path; to standard output for None; nowhere when it rehearses."""

    def __init__(self, path: Path | None, rehearse: bool = False) -> None:
        self.path = path
        self.rows_written = 0
        self._rehearse = rehearse
        self._delivery: Delivery | None = None
        self._writer: LineWriter | None = None
        self._line_end = b"\n"
        self._owed = b""
        self._ends_empty = False
        """Whether the last line is an empty one: that of a null in a table of one column."""

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        refuse_lists(schema)
        dialect = like.dialect if isinstance(like, DelimitedSource) else DEFAULT_DIALECT
        self._writer = line_writer(schema.names, settings, dialect)
        self._line_end = self._writer.line_end
        header = self._writer.header()
        self._delivery = NoDelivery() if self._rehearse else deliver_to(self.path)
        self.write(Lines(header, 0))

    def encode(self, batch: Batch) -> Lines:
        assert self._writer is not None
        return self._writer.lines(batch)

    def write(self, encoded: Lines) -> None:
        """The last line end is owed until more comes: an extract may end without one, and so does its output."""
        assert self._delivery is not None
        content = memoryview(encoded.content)
        if not len(content):
            return
        if self._owed:
            self._delivery.write(self._owed)
        end = len(self._line_end)
        before_last = bytes(content[-2 * end : -end])
        self._ends_empty = len(content) == end or before_last == self._line_end
        self._delivery.write(content[: len(content) - end])
        self._owed = self._line_end
        self.rows_written += encoded.rows

    def finish(self, like: Source) -> None:
        """An empty line without a line end would be no line: the row of a null would be lost."""
        assert self._delivery is not None
        ends = like.ends_with_line_end if isinstance(like, DelimitedSource) else True
        if ends or self._ends_empty:
            self._delivery.write(self._owed)

    def pending(self) -> PendingOutput | None:
        inode = self._delivery.inode() if self._delivery is not None else None
        return None if self.path is None or inode is None else PendingOutput(self.path.absolute(), inode)

    def commit(self) -> None:
        if self._delivery is not None:
            self._delivery.commit()

    def discard(self) -> None:
        if self._delivery is not None:
            self._delivery.discard()
