"""The file of rows set aside: each as it was read, with where it came from and why in front."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.parse import ASIDE_COLUMNS
from mangler.formats.delimited.records import split_record
from mangler.formats.delivery import Delivery, deliver_to
from mangler.kernels.rendering import Layout, quote_text


@dataclass(frozen=True)
class AsideRow:
    """An extract row that is not delivered; `step` is the recipe's line, 0 when it has no such line, with the file
    before it where a recipe includes that."""

    row: int
    line: int
    step: str
    reason: str
    as_read: bytes


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

    def add(self, rows: Iterable[AsideRow]) -> None:
        lines = [self._line(row) for row in rows]
        if not lines or self.path is None:
            return
        if self._delivery is None:
            self._delivery = deliver_to(self.path)
            header = self._join([*ASIDE_COLUMNS, *self._names])
            self._delivery.write((header + self._layout.line_end).encode())
        self._delivery.write(b"".join(lines))

    def commit(self) -> None:
        if self._delivery is not None:
            self._delivery.commit()

    def discard(self) -> None:
        if self._delivery is not None:
            self._delivery.discard()

    def _line(self, row: AsideRow) -> bytes:
        record = row.as_read
        if self._from_aside:
            delimiter = self._dialect.delimiter.encode()
            fields = split_record(record, self._dialect.spelling)
            record = delimiter.join(fields[len(ASIDE_COLUMNS) :])
        front = self._join([self._extract, str(row.row), row.step, row.reason])
        return (front + self._layout.delimiter).encode() + record + self._layout.line_end.encode()

    def _join(self, cells: Sequence[str]) -> str:
        return self._layout.delimiter.join(quote_text(cell, self._layout) for cell in cells)
