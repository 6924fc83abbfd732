"""Which extract rows are set aside, and why: as columns, so that a million of them cost little."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import field

import numpy as np
import numpy.typing as npt

from mangler.late_dataclass import dataclass
from mangler.table.batch import RowNumbers

Codes = npt.NDArray[np.int64]


@dataclass(frozen=True)
class RowNotes:
    """`rows` are extract rows in ascending order, each once; the reason of row i is `reasons[codes[i]]`."""

    rows: RowNumbers = field(default_factory=lambda: np.zeros(0, np.int64))
    codes: Codes = field(default_factory=lambda: np.zeros(0, np.int64))
    reasons: tuple[str, ...] = ()

    @classmethod
    def for_one_reason(cls, rows: RowNumbers, reason: str) -> RowNotes:
        """These rows, which may be there more than once and in any order, all for one reason."""
        if not len(rows):
            return cls()
        once = np.unique(rows)
        return cls(once, np.zeros(len(once), np.int64), (reason,))

    def __len__(self) -> int:
        return len(self.rows)

    def __iter__(self) -> Iterator[tuple[int, str]]:
        for row, code in zip(self.rows.tolist(), self.codes.tolist(), strict=True):
            yield row, self.reasons[code]

    def first(self, count: int) -> RowNotes:
        """The first so many rows, with their reasons alone."""
        kept, codes = np.unique(self.codes[:count], return_inverse=True)
        return RowNotes(self.rows[:count], codes, tuple(self.reasons[code] for code in kept.tolist()))

    def only(self, flags: npt.NDArray[np.bool_]) -> RowNotes:
        """The rows with a flag."""
        return RowNotes(self.rows[flags], self.codes[flags], self.reasons)


def merged(notes: Sequence[RowNotes]) -> RowNotes:
    """All these notes, of different rows, in the order of the rows."""
    notes = [one for one in notes if len(one)]
    if len(notes) < 2:
        return notes[0] if notes else RowNotes()
    rows = np.concatenate([one.rows for one in notes])
    order = np.argsort(rows, kind="stable")
    starts = np.cumsum([0, *(len(one.reasons) for one in notes[:-1])])
    codes = np.concatenate([one.codes + start for one, start in zip(notes, starts.tolist(), strict=True)])
    return RowNotes(rows[order], codes[order], tuple(reason for one in notes for reason in one.reasons))
