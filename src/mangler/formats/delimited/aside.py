"""The file of rows set aside: each as it was read, with where it came from and why in front."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pyarrow as pa

from mangler.formats.aside import ASIDE_COLUMNS, AsideRows
from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.records import field_text, split_record
from mangler.formats.delivery import Delivery, deliver_to
from mangler.kernels.text.concatenate import concatenate
from mangler.kernels.text.rendering import Layout, quote_text, quote_texts
from mangler.kernels.text.text_view import LARGEST_COLUMN, TextArray, view

ROWS_AT_ONCE = 8192
"""Rows that are made lines of in one go: their bytes are worked on with an index of eight bytes each."""


class DelimitedAsideFile:
    """Made only when there is a row for it. Always with a header, in the extract's delimiter and quote."""

    def __init__(
        self, path: Path | None, extract: str, names: Sequence[str], dialect: Dialect, from_aside: bool
    ) -> None:
        self.path = path
        self._extract, self._names = extract, names
        self._dialect, self._from_aside = dialect, from_aside
        self._layout = Layout(dialect.written_delimiter, dialect.quote, dialect.line_end)
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
            positions = np.arange(start, min(start + ROWS_AT_ONCE, len(rows)))
            self._write_some(delivery, rows.only(positions), steps, reasons)

    def _write_some(self, delivery: Delivery, rows: AsideRows, steps: TextArray, reasons: TextArray) -> None:
        notes, delimiter = rows.notes, self._layout.delimiter.encode()
        records = self._records(rows)
        codes = pa.array(notes.codes)
        own_steps, own_reasons = steps.take(codes), reasons.take(codes)
        size = sum(view(texts).data.nbytes for texts in (own_reasons, records))
        if size > LARGEST_COLUMN // 2 and len(rows) > 1:
            for positions in np.array_split(np.arange(len(rows)), 2):
                self._write_some(delivery, rows.only(positions), steps, reasons)
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
        records = rows.partition.as_read(rows.notes.rows)
        if self._dialect.delimiter != self._layout.delimiter:
            return pa.array(map(self._respelled, records.cast(pa.binary()).to_pylist()), pa.string())
        if not self._from_aside:
            return records
        delimiter = self._dialect.delimiter.encode()
        bare = [
            delimiter.join(split_record(record, self._dialect.spelling)[len(ASIDE_COLUMNS) :])
            for record in records.cast(pa.binary()).to_pylist()
        ]
        return pa.array(bare, pa.binary()).cast(pa.string())

    def _respelled(self, record: bytes) -> str:
        """A row without one mark between its fields, with the delimiter of this file between them."""
        dialect = self._dialect
        fields = [field_text(field, dialect.quote, dialect.escape) for field in dialect.fields(record)]
        return self._join(fields)

    def _join(self, cells: Sequence[str]) -> str:
        return self._layout.delimiter.join(quote_text(cell, self._layout) for cell in cells)
