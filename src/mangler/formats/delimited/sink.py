"""Cleaned rows as delimited text: into a file, a pipe, or nowhere."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from mangler.formats.cells import refuse_lists
from mangler.formats.contract import Source
from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.source import DelimitedSource
from mangler.formats.delimited.writer import Lines, LineWriter, line_writer
from mangler.formats.delivered_sink import DeliveredSink
from mangler.formats.guard import FormulaGuard
from mangler.formats.text_compression import text_compression
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings

DEFAULT_DIALECT = Dialect(",", '"', "\n", byte_order_mark=False)


class DelimitedSink(DeliveredSink):
    """Delimited text, its last line end only where the extract has one."""

    def __init__(self, path: Path | None, rehearse: bool = False) -> None:
        super().__init__(path, rehearse)
        self._writer: LineWriter | None = None
        self._guard: FormulaGuard | None = None
        self._line_end = b"\n"
        self._owed = b""
        self._ends_empty = False
        """Whether the last line is an empty one: that of a null in a table of one column."""

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        refuse_lists(schema)
        dialect = like.dialect if isinstance(like, DelimitedSource) else DEFAULT_DIALECT
        self._writer = _writer(schema, settings, dialect)
        self._guard = FormulaGuard(schema.names, settings.guard_formulas)
        self._line_end = self._writer.line_end
        header = self._writer.header()
        self._deliver(text_compression(settings), ".csv")
        if self.rows_before is None:
            self.write(Lines(header, 0))
        elif not self._copy_before().endswith(self._line_end):
            self._owed = self._line_end

    def encode(self, batch: Batch) -> Lines:
        assert self._writer is not None and self._guard is not None
        batch, formulas = self._guard.apply(batch)
        return replace(self._writer.lines(batch), formulas=formulas)

    def write(self, encoded: Lines) -> None:
        """The last line end is owed until more comes: an extract may end without one, and so does its output."""
        assert self._delivery is not None and self._guard is not None
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
        self._guard.note(encoded.formulas)

    def finish(self, like: Source) -> None:
        """An empty line without a line end would be no line: the row of a null would be lost."""
        assert self._delivery is not None
        ends = like.ends_with_line_end if isinstance(like, DelimitedSource) else True
        if ends or self._ends_empty:
            self._delivery.write(self._owed)

    def warnings(self) -> list[str]:
        return [] if self._guard is None else self._guard.warnings()


def _writer(schema: Schema, settings: WriteSettings, dialect: Dialect) -> LineWriter:
    """What makes lines: with a delimiter between cells, or with columns of a fixed width."""
    writer = line_writer(schema.names, settings, dialect)
    if not settings.widths:
        return writer
    from mangler.formats.delimited.fixed_writer import FixedWriter

    known = (writer.names, writer.layout, writer.codec, writer.mark, writer.span)
    return FixedWriter(*known, settings.widths, settings.spans.get("widths"))
