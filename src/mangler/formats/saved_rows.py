"""Rows set aside as they are sent from one process to another: only they, without the partition that they are from."""

from __future__ import annotations

from typing import Any

import numpy as np

from mangler.formats.aside import AsideRows
from mangler.formats.typed_source import TypedPartition
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.late_dataclass import dataclass
from mangler.table.batch import RowNumbers


@dataclass(frozen=True)
class SavedRows:
    """Some rows of a partition, in ascending order, with all that is asked of them."""

    index: int
    first_row: int
    row_count: int
    bytes_read: int
    is_last: bool
    rows: RowNumbers
    lines: RowNumbers | None
    texts: ColumnArray
    records: Any
    """As record batch of the file's own columns, for formats with types; else None."""
    file: str = ""

    def line_of(self, row: int) -> int:
        lines = self.locate(np.array([row]))
        return row if lines is None else int(lines[0])

    def locate(self, rows: RowNumbers) -> RowNumbers | None:
        return None if self.lines is None else self.lines[np.searchsorted(self.rows, rows)]

    def as_read(self, rows: RowNumbers) -> ColumnArray:
        return self.texts.take(from_numpy(np.searchsorted(self.rows, rows)))

    def records_of(self, rows: RowNumbers) -> Any:
        return self.records.take(from_numpy(np.searchsorted(self.rows, rows)))


def saved(aside: AsideRows) -> AsideRows:
    """The same rows, which can be pickled."""
    partition, rows = aside.partition, np.unique(aside.notes.rows)
    records = partition.records_of(rows) if isinstance(partition, TypedPartition) else None
    kept = SavedRows(
        partition.index,
        partition.first_row,
        partition.row_count,
        partition.bytes_read,
        partition.is_last,
        rows,
        partition.locate(rows),
        partition.as_read(rows),
        records,
        partition.file if isinstance(partition, TypedPartition) else "",
    )
    return AsideRows(kept, aside.notes, aside.steps)
