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
from mangler.formats.delimited.records import split_record
from mangler.formats.delivery import Delivery, deliver_to
from mangler.kernels.concatenate import concatenate
from mangler.kernels.rendering import Layout, quote_text
from mangler.kernels.text_view import LARGEST_COLUMN, TextArray, view
from mangler.table.row_notes import RowNotes, merged


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
        notes, delimiter = rows.notes, self._layout.delimiter.encode()
        front = [self._join([step, reason]) for step, reason in zip(rows.steps, notes.reasons, strict=True)]
        reasons = pa.array(front, pa.string()).take(pa.array(notes.codes))
        records = self._records(rows)
        size = view(reasons).data.nbytes + view(records).data.nbytes
        if size > LARGEST_COLUMN // 2 and len(rows) > 1:
            half = len(rows) // 2
            first = np.arange(len(rows)) < half
            for part in (first, ~first):
                self._write(delivery, AsideRows(rows.block, notes.only(part), rows.steps))
            return
        lines = concatenate(
            [
                self._join([self._extract]).encode() + delimiter,
                pa.array(notes.rows).cast(pa.string()),
                delimiter,
                reasons,
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
