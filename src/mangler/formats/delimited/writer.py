"""Batches to delimited text: the header, then lines."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.parse import BYTE_ORDER_MARK
from mangler.formats.delimited.records import LINE_FEED
from mangler.kernels import compiled
from mangler.kernels.text import bits
from mangler.kernels.text.byte_counts import count_byte
from mangler.kernels.text.fields import FieldColumn, FieldFacts, entries_of, known_of
from mangler.kernels.text.rendering import Layout, quote_text, render
from mangler.kernels.text.text_view import TextArray, view
from mangler.kernels.values.format_values import format_values
from mangler.language.mistake import Refusal, extract_does_not_fit, wrong_recipe
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.settings import WriteSettings

LINE_ENDS = {"lf": "\n", "crlf": "\r\n"}


def layout_for(settings: WriteSettings, read: Dialect) -> Layout:
    """What `write` does not say is as in the extract."""
    delimiter = settings.delimiter or read.written_delimiter
    if any(mark in settings.nulls for mark in (delimiter, read.quote)):
        raise wrong_recipe(
            "nulls-word",
            f'write nulls "{settings.nulls}" holds the delimiter or the quote of the output',
            "A word for null is without quotes, so it can hold neither.",
        )
    line_end = LINE_ENDS[settings.line_end] if settings.line_end else read.line_end
    return Layout(delimiter, read.quote, line_end, settings.quotes == "always", settings.nulls)


LARGEST_AT_ONCE = 256 << 20
"""Bytes of columns that are made lines of in one go."""


@dataclass(frozen=True)
class Lines:
    """Rows as bytes, and how many rows these bytes hold."""

    content: bytes | memoryview
    rows: int
    formulas: tuple[tuple[int, int], ...] = ()
    """How many texts of a column, by its index, would run as formulas in a spreadsheet."""


def count_rows(rendered: bytes | memoryview, columns: Sequence[TextArray], quote: str, expected: int) -> int:
    """How many rows rendered columns hold, counted in the bytes: line ends, without the line breaks of cells.

    That costs a look at each byte. Only where it does not give what is expected, quotes are looked at as well: bytes
    under nulls may be line breaks, or rows are missing.
    """
    data = np.frombuffer(rendered, np.uint8)
    if compiled.lines is not None:
        counted: int = compiled.lines.count_lines(data, ord(quote))
        return counted
    inside_cells = sum(count_byte(view(column).data, LINE_FEED) for column in columns)
    if count_byte(data, LINE_FEED) - inside_cells == expected:
        return expected
    # Doubled quotes inside a cell are two, so that behind them it is inside as before.
    inside = bits.odd_so_far(bits.pack(data == ord(quote)))
    return bits.count(bits.pack(data == LINE_FEED) & ~inside)


@dataclass(frozen=True)
class LineWriter:
    """Renders in the output's layout and encoding. `codec` None means UTF-8, `mark` goes in front of all."""

    names: tuple[str, ...]
    layout: Layout
    codec: str | None
    mark: bytes
    span: SourceSpan | None
    """Where the recipe names the encoding."""

    @property
    def line_end(self) -> bytes:
        return self.layout.line_end.encode(self.codec or "utf-8")

    def header(self) -> bytes:
        spelled = [quote_text(name, self.layout) for name in self.names]
        if spelled and spelled[0].startswith("\ufeff") and not self.mark:
            # Without quotes it would be read as a byte order mark, and not as part of the name.
            spelled[0] = quote_text(self.names[0], replace(self.layout, quote_all=True))
        line = self.layout.delimiter.join(spelled) + self.layout.line_end
        try:
            return self.mark + line.encode(self.codec or "utf-8")
        except UnicodeEncodeError as error:
            raise self._lacking("the header", line[error.start]) from None

    def lines(self, batch: Batch) -> Lines:
        entries = entries_of(batch.columns)
        texts = [one if isinstance(one, FieldColumn) else format_values(one) for one in entries]
        batch = batch.with_columns(texts)
        rendered = self._rendered(batch)
        rows = count_rows(rendered, batch.columns, self.layout.quote, len(batch))
        if self.codec is None:
            return Lines(rendered, rows)
        try:
            return Lines(bytes(rendered).decode("utf-8").encode(self.codec), rows)
        except UnicodeEncodeError:
            raise self._lacking_in(batch) from None

    def _rendered(self, batch: Batch) -> bytes | memoryview:
        """At once; in halves where a step made so many rows that one column could not hold their lines."""
        sizes = (one.size if isinstance(one, FieldFacts) else one.nbytes for one in known_of(batch.columns))
        if sum(sizes) <= LARGEST_AT_ONCE or len(batch) < 2:
            return render(batch.columns, len(batch), self.layout)
        half = len(batch) // 2
        parts = (batch.slice(0, half), batch.slice(half, len(batch) - half))
        return b"".join(self._rendered(part) for part in parts)

    def _lacking_in(self, batch: Batch) -> Refusal:
        """Finds the first cell that the encoding lacks a character for."""
        assert self.codec is not None
        for index in range(len(batch)):
            for name, column in zip(self.names, batch.columns, strict=True):
                value = column[index].as_py() or ""
                try:
                    value.encode(self.codec)
                except UnicodeEncodeError as error:
                    row = int(batch.rows[index])
                    line = batch.origin.line_of(row)  # not known any more once rows were gathered
                    where = f"line {line}: row {row:,}" if line else f"{batch.origin.file}: row {row:,}"
                    return self._lacking(f'{where}, column "{name}"', value[error.start])
        raise AssertionError("lines cannot be encoded, yet every cell can")

    def _lacking(self, where: str, character: str) -> Refusal:
        return extract_does_not_fit(
            "encoding",
            f"{where} holds {character} (U+{ord(character):04X}), which {self.codec} lacks",
            "Replace the character in a step before, or write another encoding, such as utf-8.",
            self.span,
        )


MARKS = {"utf-16": (b"\xff\xfe", "utf-16-le"), "utf-32": (b"\xff\xfe\0\0", "utf-32-le")}


def line_writer(names: Sequence[str], settings: WriteSettings, read: Dialect) -> LineWriter:
    """How lines are written: what `write` does not say is as in the extract, the encoding UTF-8."""
    codec: str | None = settings.encoding
    mark = BYTE_ORDER_MARK if read.byte_order_mark and codec is None else b""
    if codec == "utf-8-sig":
        codec, mark = None, BYTE_ORDER_MARK
    elif codec == "utf-8":
        codec = None
    elif codec in MARKS:
        # The mark comes once, in front; the lines are encoded apart from each other.
        mark, codec = MARKS[codec]
    return LineWriter(tuple(names), layout_for(settings, read), codec, mark, settings.spans.get("encoding"))
