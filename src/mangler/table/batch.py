"""A batch: some rows of a table as columns, which know where they come from."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol, TypeAlias

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.taking import Places
from mangler.kernels.text.fields import Entry, made, taken, with_entries
from mangler.late_dataclass import dataclass

RowNumbers: TypeAlias = npt.NDArray[np.int64]


class Origin(Protocol):
    """The stretch of an extract that a batch was read from."""

    @property
    def file(self) -> str:
        """The extract as it was named; empty where there is none."""
        ...

    def line_of(self, row: int) -> int:
        """The physical line, from 1, on which the extract row of this number starts."""
        ...


class NoOrigin:
    """The origin of rows that are in no file; each is its own line."""

    file = ""

    def line_of(self, row: int) -> int:
        return row


@dataclass(frozen=True)
class Batch:
    """`columns` are arrays of one length; `rows[i]` is the extract row, from 1, that row i came from."""

    columns: Sequence[ColumnArray]
    """A tuple; or `Columns`, some of which are made when they are asked for."""
    rows: RowNumbers
    origin: Origin

    @classmethod
    def empty(cls, columns: tuple[ColumnArray, ...], origin: Origin | None = None) -> Batch:
        """A batch without rows."""
        return cls(columns, np.empty(0, np.int64), origin or NoOrigin())

    def __len__(self) -> int:
        return len(self.rows)

    def filter(self, keep: npt.NDArray[np.bool_]) -> Batch:
        """Only these rows."""
        return self.take(np.flatnonzero(keep))

    def take(self, places: Places) -> Batch:
        """The rows at these places, from 0, in this order."""
        return Batch(taken(self.columns, places), self.rows[places], self.origin)

    def slice(self, start: int, count: int) -> Batch:
        """So many rows from this one on, from 0."""
        columns = tuple(column.slice(start, count) for column in self.columns)
        return Batch(columns, self.rows[start : start + count], self.origin)

    def with_columns(self, columns: Sequence[Entry]) -> Batch:
        """The same rows with these columns, or entries of `Columns`."""
        return Batch(with_entries(self.columns, columns), self.rows, self.origin)

    def made(self, indices: Sequence[int] | None = None) -> Batch:
        """The same rows; the columns of these indices are made. Without indices all are, and nothing is kept of what
        was read."""
        return Batch(made(self.columns, indices), self.rows, self.origin)

    def to_arrow(self, names: Sequence[str]) -> pa.RecordBatch:
        if not self.columns:
            return pa.RecordBatch.from_arrays([], names=[])
        return pa.RecordBatch.from_arrays(list(self.columns), names=list(names))
