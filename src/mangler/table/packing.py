"""Batches as Arrow writes them to a file, and the origin of rows that come from all over an extract."""

from __future__ import annotations

import numpy as np
import pyarrow as pa

from mangler.kernels.arrow import from_numpy
from mangler.table.batch import Batch

ROWS = "rows"


class MixedOrigin:
    """The origin of rows that were gathered from all over an extract."""

    def __init__(self, file: str = "") -> None:
        self.file = file

    def line_of(self, row: int) -> int:  # noqa: ARG002
        """Not known any more."""
        return 0


def packed(batch: Batch) -> pa.RecordBatch:
    """The batch as Arrow writes it: its columns by number, and its row numbers."""
    names = [*map(str, range(len(batch.columns))), ROWS]
    return pa.RecordBatch.from_arrays([*batch.columns, from_numpy(batch.rows)], names=names)


def unpacked(record: pa.RecordBatch, origin: MixedOrigin) -> Batch:
    columns = record.columns
    return Batch(tuple(columns[:-1]), np.asarray(columns[-1]), origin)
