"""What is counted of whole rows as they pass: hashes of them all up to a bound, and the first ones column by column."""

from __future__ import annotations

from dataclasses import field

import numpy as np
import numpy.typing as npt

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.keys import hashes
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.values.spelled import encodes, spelled
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.small import cells_of

MOST_HASHED = 200_000
"""Rows that are compared with each other: to hash all of many columns would take a fifth of the time of a profile."""
MOST_ROWS, MOST_COLUMNS = 20_000, 60
"""Rows and columns that are looked at together."""

Codes = npt.NDArray[np.int32]
Hashes = npt.NDArray[np.uint64]


@dataclass(frozen=True)
class RowsRead:
    """What one partition says of its rows."""

    hashed: Hashes
    codes: Codes | None = None
    """For each column, which of its values each of the first rows has; -1 for null."""
    last: tuple[str | None, ...] = ()


@dataclass
class Rows:
    """`count` rows were compared: the whole table, unless it is larger."""

    codes: Codes | None = None
    last: tuple[str | None, ...] = ()
    _hashed: list[Hashes] = field(default_factory=list)
    count: int = 0

    def add(self, read: RowsRead) -> None:
        """Takes the rows of the next partition."""
        room = MOST_HASHED - self.count
        if room > 0:
            self._hashed.append(read.hashed[:room])
            self.count += len(self._hashed[-1])
        if self.codes is None:
            self.codes = read.codes
        self.last = read.last or self.last

    def repeated(self) -> int:
        """How many rows are equal to an earlier one."""
        if not self._hashed:
            return 0
        every = np.concatenate(self._hashed)
        return len(every) - len(np.unique(every))


def rows_read(batch: Batch, chosen: tuple[int, ...], is_first: bool) -> RowsRead:
    """What a batch says of its rows, up to those that are compared; `chosen` are the columns that are looked at."""
    columns = [batch.columns[index] for index in chosen]
    count = len(batch)
    if not count:
        return RowsRead(np.zeros(0, np.uint64))
    codes = None
    if is_first and len(columns) <= MOST_COLUMNS:
        codes = np.stack([_codes(column.slice(0, MOST_ROWS)) for column in columns])
    last = tuple(cells_of(column.slice(count - 1, 1))[0] for column in columns)
    compared = min(count, max(0, MOST_HASHED - int(batch.rows[0]) + 1))
    hashed = hashes([column.slice(0, compared) for column in columns], compared)
    return RowsRead(hashed, codes, last)


def _codes(column: ColumnArray) -> Codes:
    encoded = as_dictionary(column if encodes(column) else spelled(column))
    found: Codes = np.asarray(encoded.indices.fill_null(-1)).astype(np.int32)
    return found
