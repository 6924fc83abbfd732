"""Batches to delimited text: the header, then lines."""

from __future__ import annotations

from collections.abc import Sequence

from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.parse import BYTE_ORDER_MARK
from mangler.kernels.rendering import Layout, quote_text, render
from mangler.language.mistake import wrong_recipe
from mangler.table.batch import Batch
from mangler.table.settings import WriteSettings

LINE_ENDS = {"lf": "\n", "crlf": "\r\n"}


def layout_for(settings: WriteSettings, read: Dialect) -> Layout:
    """What `write` does not say is as in the extract."""
    delimiter = settings.delimiter or read.delimiter
    if any(mark in settings.nulls for mark in (delimiter, read.quote)):
        raise wrong_recipe(
            f'write nulls "{settings.nulls}" holds the delimiter or the quote of the output',
            "A word for null stands without quotes, so it can hold neither.",
        )
    line_end = LINE_ENDS[settings.line_end] if settings.line_end else read.line_end
    return Layout(delimiter, read.quote, line_end, settings.quotes == "always", settings.nulls)


def render_header(names: Sequence[str], layout: Layout, byte_order_mark: bool) -> bytes:
    line = layout.delimiter.join(quote_text(name, layout) for name in names) + layout.line_end
    return (BYTE_ORDER_MARK if byte_order_mark else b"") + line.encode()


def render_batch(batch: Batch, layout: Layout) -> bytes | memoryview:
    return render(batch.columns, len(batch), layout)
