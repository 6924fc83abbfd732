"""Batches as lines of columns that are so many characters wide, padded with spaces."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.formats.delimited.writer import Lines, LineWriter
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.concatenate import concatenate
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import TextArray, view
from mangler.kernels.values.format_values import format_values
from mangler.language.mistake import Refusal, extract_does_not_fit, wrong_recipe
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch


@dataclass(frozen=True)
class FixedWriter(LineWriter):
    """Numbers are to the right, everything else to the left. Null is nothing but spaces, or the word for it."""

    widths: tuple[int, ...] = ()
    widths_span: SourceSpan | None = None

    def header(self) -> bytes:
        if len(self.widths) != len(self.names):
            raise wrong_recipe(
                "wrong-number-of-names",
                f"{len(self.names)} columns come out of the steps, and write widths names {len(self.widths)}",
                f"The columns: {', '.join(self.names[:10])}{', …' if len(self.names) > 10 else ''}.",
                self.widths_span,
            )
        for name, width in zip(self.names, self.widths, strict=True):
            if len(name) > width or "\n" in name or "\r" in name:
                raise wrong_recipe(
                    "too-wide",
                    f'the name "{name}" has more than {width} characters, or a line break',
                    "Write wider columns, or rename the column.",
                    self.widths_span,
                )
        line = "".join(name.ljust(width) for name, width in zip(self.names, self.widths, strict=True))
        return self.mark + f"{line.rstrip(' ')}{self.layout.line_end}".encode(self.codec or "utf-8")

    def lines(self, batch: Batch) -> Lines:
        texts = batch.with_columns([format_values(column) for column in batch.columns])
        padded = [
            self._padded(batch, index, column, text)
            for index, (column, text) in enumerate(zip(batch.columns, texts.columns, strict=True))
        ]
        end = self.layout.line_end.encode()
        rendered = (
            view(concatenate([*padded, end], len(batch))).data.tobytes() if padded else end * len(batch)
        )
        rows = rendered.count(b"\n")
        if self.codec is None:
            return Lines(rendered, rows)
        try:
            return Lines(rendered.decode("utf-8").encode(self.codec), rows)
        except UnicodeEncodeError:
            raise self._lacking_in(texts) from None

    def _padded(self, batch: Batch, index: int, column: ColumnArray, text: TextArray) -> TextArray:
        width, kind = self.widths[index], column.type
        text = pc.fill_null(text, self.layout.nulls)
        wrong = flags_of(
            pc.or_(pc.greater(pc.utf8_length(text), width), pc.match_substring_regex(text, "[\r\n]"))
        )
        if wrong.any():
            raise self._too_wide(batch, index, int(np.flatnonzero(wrong)[0]), text)
        numeric = pa.types.is_integer(kind) or pa.types.is_floating(kind) or pa.types.is_decimal(kind)
        return pc.utf8_lpad(text, width) if numeric else pc.utf8_rpad(text, width)

    def _too_wide(self, batch: Batch, index: int, at: int, text: TextArray) -> Refusal:
        value = text[at].as_py()
        row = int(batch.rows[at])
        line = batch.origin.line_of(row)
        where = f"line {line}: row {row:,}" if line else f"row {row:,}"
        what = "holds a line break" if "\n" in value or "\r" in value else f"has {len(value)} characters"
        return extract_does_not_fit(
            "too-wide",
            f'{where}, column "{self.names[index]}": "{value[:60]}" {what}, and the column is'
            f" {self.widths[index]} wide",
            "Write a wider column, or shorten the cell before.",
            self.widths_span,
        )
