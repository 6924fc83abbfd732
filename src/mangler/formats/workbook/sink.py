"""Cleaned rows as a workbook: typed cells, widths, a frozen header; row by row, in constant memory."""

from __future__ import annotations

import contextlib
from datetime import datetime
from pathlib import Path
from typing import Any

import xlsxwriter

from mangler.formats.cells import refuse_lists
from mangler.formats.contract import Source
from mangler.formats.delivered_sink import DeliveredSink
from mangler.formats.guard import FormulaGuard
from mangler.formats.row_limit import too_many_rows
from mangler.formats.stream import DeliveryStream
from mangler.formats.workbook.cells import CellWriter, Losses, cell_values, width_of, writer_for
from mangler.language.mistake import Refusal, extract_does_not_fit
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings
from mangler.table.stored_types import arrow_type

MOST_ROWS, MOST_COLUMNS = 1_048_576, 16_384
"""Of a sheet, with its header (Office Open XML)."""
WIDEST, NARROWEST = 60, 8
"""Characters."""
CREATED = datetime(1980, 1, 1)
"""The date in every workbook, so that the same rows give the same bytes."""
SHEET = "Table"


@dataclass(frozen=True)
class Cells:
    """Rows as the values that are written, column by column."""

    columns: list[list[Any]]
    rows: Any
    """The extract row of each, for messages."""
    widths: list[int]
    """Characters of the longest cell of each column."""
    formulas: tuple[tuple[int, int], ...]

    @property
    def count(self) -> int:
        return len(self.rows)


class WorkbookSink(DeliveredSink):
    """One sheet with a header in bold that stays in sight."""

    def __init__(self, path: Path | None, rehearse: bool) -> None:
        super().__init__(path, rehearse)
        self._stream: DeliveryStream | None = None
        self._book: Any = None
        self._sheet: Any = None
        self._names: list[str] = []
        self._writers: list[CellWriter] = []
        self._widths: list[int] = []
        self._losses: Losses = Losses([])
        self._guard: FormulaGuard | None = None

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        refuse_lists(schema, "a cell of a workbook")
        self._names = list(schema.names)
        if len(self._names) > MOST_COLUMNS:
            raise extract_does_not_fit(
                "too-many-columns",
                f"{len(self._names):,} columns are to be written, and a sheet has {MOST_COLUMNS:,}",
                "Write another format, such as parquet, or drop columns.",
            )
        sheet = like.details.get("sheet", SHEET)
        self._stream = DeliveryStream(self._deliver())
        self._book = xlsxwriter.Workbook(
            self._stream,
            {
                "constant_memory": True,
                "strings_to_formulas": False,
                "strings_to_urls": False,
                "nan_inf_to_errors": True,
            },
        )
        self._book.set_properties({"created": CREATED})
        self._sheet = self._book.add_worksheet(sheet)
        header = self._book.add_format({"bold": True})
        self._losses = Losses(self._names)
        self._writers = [
            writer_for(index, arrow_type(column), self._sheet, self._book, self._losses)
            for index, column in enumerate(schema.columns)
        ]
        self._widths = [len(name) for name in self._names]
        self._guard = FormulaGuard(self._names, settings.guard_formulas)
        for index, name in enumerate(self._names):
            self._sheet.write_string(0, index, name, header)
        self._sheet.freeze_panes(1, 0)

    def encode(self, batch: Batch) -> Cells:
        assert self._guard is not None
        batch, formulas = self._guard.apply(batch)
        values = [cell_values(column) for column in batch.columns]
        return Cells(values, batch.rows, [width_of(column) for column in batch.columns], formulas)

    def write(self, encoded: Cells) -> None:
        assert self._guard is not None
        self._guard.note(encoded.formulas)
        if self.rows_written + encoded.count + 1 > MOST_ROWS:
            raise too_many_rows(MOST_ROWS - 1)
        first = self.rows_written + 1
        writers = [writer.write for writer in self._writers]
        self._widths = list(map(max, self._widths, encoded.widths))
        rows = zip(*encoded.columns, strict=True) if encoded.columns else iter([()] * encoded.count)
        for offset, row in enumerate(rows):
            for write, value in zip(writers, row, strict=True):
                if value is not None and write(first + offset, value):
                    raise self._too_long(encoded.rows[offset], row)
        self.rows_written += encoded.count

    def _too_long(self, row: int, values: tuple[Any, ...]) -> Refusal:
        longest = max(range(len(values)), key=lambda index: len(str(values[index] or "")))
        return extract_does_not_fit(
            "too-large",
            f'row {int(row):,}, column "{self._names[longest]}": a text of {len(str(values[longest])):,} characters,'
            " and a cell of a workbook holds 32,767",
            "Write another format, such as parquet or text, or shorten the text before.",
        )

    def finish(self, like: Source) -> None:  # noqa: ARG002
        for index, width in enumerate(self._widths):
            self._sheet.set_column(index, index, min(WIDEST, max(NARROWEST, width + 2)))
        self._book.close()

    def remarks(self) -> list[str]:
        return self._losses.known

    def warnings(self) -> list[str]:
        return self._losses.warnings()

    def discard(self) -> None:
        if self._stream is not None:
            self._stream.abandoned = True
        if self._book is not None and not self._book.fileclosed:
            self._book.fileclosed = True  # or it would write itself when it is taken away
            self._take_rows_away()
        super().discard()

    def _take_rows_away(self) -> None:
        """The rows of a sheet wait in a temporary file, which the library takes away only when it is done."""
        for sheet in self._book.worksheets():
            sheet.row_data_fh.close()
            with contextlib.suppress(OSError):
                Path(sheet.row_data_filename).unlink()
