"""The file of rows set aside: each as it was read, with where it came from and why in front."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pyarrow as pa

from mangler.formats.delimited.blocks import Block
from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.parse import ASIDE_COLUMNS
from mangler.formats.delimited.records import Positions, split_record
from mangler.formats.delivery import Delivery, deliver_to
from mangler.kernels.concatenate import concatenate
from mangler.kernels.rendering import Layout, quote_text, quote_texts
from mangler.kernels.text_view import LARGEST_COLUMN, TextArray, view
from mangler.table.row_notes import RowNotes, merged

ROWS_AT_ONCE = 8192
"""Rows that are made lines of in one go: their bytes are worked on with an index of eight bytes each."""


@dataclass(frozen=True)
class AsideRow:
    """An extract row that is not delivered; `step` is the recipe's line, 0 when it has no such line, with the file
    before it where a recipe includes that."""

    row: int
    line: int
    step: str
    reason: str
    as_read: bytes


@dataclass(frozen=True)
class AsideRows:
    """The rows of one block that are not delivered. `steps[k]` is the step of the reason `notes.reasons[k]`."""

    block: Block
    notes: RowNotes
    steps: tuple[str, ...]

    def __len__(self) -> int:
        return len(self.notes)

    def only(self, places: Positions) -> AsideRows:
        """Those at these places."""
        notes = self.notes
        return AsideRows(
            self.block, RowNotes(notes.rows[places], notes.codes[places], notes.reasons), self.steps
        )

    def first(self, count: int) -> list[AsideRow]:
        """The first so many."""
        rows, block = self.notes.rows[:count], self.block
        lines = block.lines_of(rows).tolist() if len(rows) else []
        return [
            AsideRow(row, line, self.steps[code], self.notes.reasons[code], block.as_read(row))
            for row, line, code in zip(rows.tolist(), lines, self.notes.codes[:count].tolist(), strict=True)
        ]


def aside_rows(block: Block, noted: Sequence[tuple[str, RowNotes]]) -> AsideRows:
    """The rows that steps set aside, each named before its notes, in the order of the rows."""
    noted = [(step, notes) for step, notes in noted if len(notes)]
    steps = tuple(step for step, notes in noted for _ in notes.reasons)
    return AsideRows(block, merged([notes for _, notes in noted]), steps)


class AsideFile:
    """Made only when there is a row for it. Always with a header, in the extract's delimiter and quote."""

    def __init__(
        self, path: Path | None, extract: str, names: Sequence[str], dialect: Dialect, from_aside: bool
    ) -> None:
        self.path = path
        self._extract, self._names = extract, names
        self._dialect, self._from_aside = dialect, from_aside
        self._layout = Layout(dialect.delimiter, dialect.quote, dialect.line_end)
        self._delivery: Delivery | None = None

    def add(self, rows: AsideRows) -> None:
        """Writes them; they are not kept."""
        if not len(rows) or self.path is None:
            return
        if self._delivery is None:
            self._delivery = deliver_to(self.path)
            header = self._join([*ASIDE_COLUMNS, *self._names])
            self._delivery.write((header + self._layout.line_end).encode())
        self._write(self._delivery, rows)

    def commit(self) -> None:
        if self._delivery is not None:
            self._delivery.commit()

    def discard(self) -> None:
        if self._delivery is not None:
            self._delivery.discard()

    def _write(self, delivery: Delivery, rows: AsideRows) -> None:
        steps, reasons = (
            quote_texts(pa.array(texts, pa.string()), self._layout)
            for texts in (rows.steps, rows.notes.reasons)
        )
        for start in range(0, len(rows), ROWS_AT_ONCE):
            places = np.arange(start, min(start + ROWS_AT_ONCE, len(rows)))
            self._write_some(delivery, rows.only(places), steps, reasons)

    def _write_some(self, delivery: Delivery, rows: AsideRows, steps: TextArray, reasons: TextArray) -> None:
        notes, delimiter = rows.notes, self._layout.delimiter.encode()
        records = self._records(rows)
        codes = pa.array(notes.codes)
        own_steps, own_reasons = steps.take(codes), reasons.take(codes)
        size = sum(view(texts).data.nbytes for texts in (own_reasons, records))
        if size > LARGEST_COLUMN // 2 and len(rows) > 1:
            for places in np.array_split(np.arange(len(rows)), 2):
                self._write_some(delivery, rows.only(places), steps, reasons)
            return
        lines = concatenate(
            [
                self._join([self._extract]).encode() + delimiter,
                pa.array(notes.rows).cast(pa.string()),
                delimiter,
                own_steps,
                delimiter,
                own_reasons,
                delimiter,
                records,
                self._layout.line_end.encode(),
            ],
            len(rows),
        )
        delivery.write(view(lines).data.tobytes())

    def _records(self, rows: AsideRows) -> TextArray:
        """The rows as they were read; of an aside file without what was in front of them."""
        records = rows.block.records_of(rows.notes.rows)
        if not self._from_aside:
            return records
        delimiter = self._dialect.delimiter.encode()
        bare = [
            delimiter.join(split_record(record, self._dialect.spelling)[len(ASIDE_COLUMNS) :])
            for record in records.cast(pa.binary()).to_pylist()
        ]
        return pa.array(bare, pa.binary()).cast(pa.string())

    def _join(self, cells: Sequence[str]) -> str:
        return self._layout.delimiter.join(quote_text(cell, self._layout) for cell in cells)
