"""What was read of a file of objects as partitions: rows, their text as it is, their lines."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.formats.json.scan import Scan, partitions_of, texts_at, unfit_of
from mangler.formats.typed_source import TypedPartition
from mangler.kernels.arrow import ColumnArray
from mangler.table.batch import RowNumbers


def partitions_of_scan(found: Scan, name: str, ends_file: bool = True) -> Iterator[TypedPartition]:
    """All rows of a scan. `ends_file`: whether its last row is that of the file."""
    end = found.pieces[-1].end
    for index, (piece, records, spans) in enumerate(partitions_of(found)):

        def raw(rows: RowNumbers, first: int = piece.first_row, spans: Any = spans) -> ColumnArray:
            return pa.array(texts_at(found.file, spans, rows - first), pa.binary())

        def lines(rows: RowNumbers, first: int = piece.first_row, spans: Any = spans) -> RowNumbers:
            numbers: RowNumbers = np.asarray(spans.column("lines"))[rows - first]
            return numbers

        is_last, unfit = ends_file and piece.end == end, unfit_of(piece, spans)
        yield TypedPartition(index, piece.first_row, records, piece.end, is_last, name, unfit, raw, lines)
