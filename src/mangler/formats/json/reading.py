"""JSON as an extract: its rows in partitions, their text as it is, their lines."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.formats.contract import ReadRequest
from mangler.formats.json.aside import JsonAsideFile
from mangler.formats.json.scan import JSON, Scan, partitions_of, scan, texts_at, unfit_of
from mangler.formats.json.splitting import Layout, layout_of
from mangler.formats.location import Location
from mangler.formats.typed_source import COMMON_CLAUSES, Reading, TypedPartition, TypedSource, typed_source
from mangler.kernels.arrow import ColumnArray
from mangler.language.mistake import enumerate_names, extract_does_not_fit, file_trouble
from mangler.table.batch import RowNumbers

READ_CLAUSES = COMMON_CLAUSES
HEAD = 1 << 16
MOST_TOLD = 4


def layout_at(location: Location) -> Layout | None:
    """The layout of the objects in a file; None where it holds something else."""
    return layout_of(location.head(HEAD))


def open_json(location: Location, request: ReadRequest, format_name: str) -> TypedSource:
    """Opens a file of objects. It is read once to its end, as the types are those of all its values."""
    layout = layout_at(location)
    if layout is None:
        if not location.head(1):
            raise file_trouble("file-empty", f"{location.name} is empty", "Was it written to its end?")
        raise file_trouble(
            "other-format",
            f"{location.name} does not start with an object of JSON, nor with an array of them",
            "Leave format json out of read, to have its format detected.",
        )
    found = scan(location.file(), layout, location.name, location.size, request.rows)
    columns = found.columns
    if not columns:
        found.close()
        what = "no objects" if not found.rows else "objects without keys"
        raise extract_does_not_fit("no-columns", f"{location.name} holds {what}", "Is it the right file?")
    schema = pa.schema(
        [(".".join(path), JSON if target.is_tree else target.type) for path, target in columns.items()]
    )

    def partitions() -> Iterator[TypedPartition]:
        return _partitions(found, location.name)

    return typed_source(
        location,
        request,
        format_name,
        Reading(schema, partitions, found.close, found.nested),
        lambda path, source: JsonAsideFile(path, source.name, layout is Layout.ARRAY),
        details={"layout": layout.value},
        was_set_aside=found.was_set_aside,
        remarks=_remarks(found),
    )


def _remarks(found: Scan) -> list[str]:
    """Columns that hold several kinds of values."""
    mixed = [f"{'.'.join(path)} ({target.mixed})" for path, target in found.columns.items() if target.mixed]
    if not mixed:
        return []
    what = "1 column holds" if len(mixed) == 1 else f"{len(mixed):,} columns hold"
    return [f"{what} values of several kinds, read as text: {enumerate_names(mixed, MOST_TOLD)}"]


def _partitions(found: Scan, name: str) -> Iterator[TypedPartition]:
    end = found.pieces[-1].end
    for index, (piece, records, spans) in enumerate(partitions_of(found)):

        def raw(rows: RowNumbers, first: int = piece.first_row, spans: Any = spans) -> ColumnArray:
            return pa.array(texts_at(found.file, spans, rows - first), pa.binary())

        def lines(rows: RowNumbers, first: int = piece.first_row, spans: Any = spans) -> RowNumbers:
            numbers: RowNumbers = np.asarray(spans.column("lines"))[rows - first]
            return numbers

        is_last, unfit = piece.end == end, unfit_of(piece, spans)
        yield TypedPartition(index, piece.first_row, records, piece.end, is_last, name, unfit, raw, lines)
