"""A run of consecutive rows of an extract: what is read, and parsed, at a time."""

from __future__ import annotations

from typing import Protocol

from mangler.kernels.arrow import ColumnArray
from mangler.table.batch import RowNumbers


class Partition(Protocol):
    """A run of consecutive rows of an extract, which are not parsed yet."""

    @property
    def index(self) -> int:
        """Its number among the partitions, from 0."""
        ...

    @property
    def first_row(self) -> int:
        """The number of its first row in the extract, from 1."""
        ...

    @property
    def row_count(self) -> int: ...

    @property
    def bytes_read(self) -> int:
        """Bytes of the file up to the end of this partition."""
        ...

    @property
    def is_last(self) -> bool:
        """Whether no partition follows."""
        ...

    def locate(self, rows: RowNumbers) -> RowNumbers | None:
        """The physical lines, from 1, on which these rows start; None for formats without lines."""
        ...

    def as_read(self, rows: RowNumbers) -> ColumnArray:
        """These rows as they are in the extract, one text for each."""
        ...
