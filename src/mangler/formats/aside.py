"""Rows set aside: which they are, where they are in the extract, why, and the file that they go to."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

import numpy as np
import numpy.typing as npt

from mangler.formats.partition import Partition
from mangler.late_dataclass import dataclass
from mangler.table.row_notes import RowNotes, merged

ASIDE_COLUMNS = ("_file", "_row", "_step", "_reason")
"""In front of rows set aside; a file that starts with these columns is read as such."""


@dataclass(frozen=True)
class AsideRow:
    """An extract row that is not delivered.

    `step` is the line of the step in the recipe, with the file before it where a recipe includes that; "0" where the
    recipe has no such line. `line` is 0 for formats without lines.
    """

    row: int
    line: int
    step: str
    reason: str
    as_read: bytes


@dataclass(frozen=True)
class AsideRows:
    """The rows of one partition that are not delivered. `steps[k]` is the step of the reason `notes.reasons[k]`."""

    partition: Partition
    notes: RowNotes
    steps: tuple[str, ...]

    def __len__(self) -> int:
        return len(self.notes)

    def only(self, indexes: npt.NDArray[np.intp]) -> AsideRows:
        """The rows with these indexes."""
        notes = self.notes
        chosen = RowNotes(notes.rows[indexes], notes.codes[indexes], notes.reasons)
        return AsideRows(self.partition, chosen, self.steps)

    def first(self, count: int) -> list[AsideRow]:
        """The first so many rows."""
        rows = self.notes.rows[:count]
        if not len(rows):
            return []
        found = self.partition.locate(rows)
        lines = [0] * len(rows) if found is None else found.tolist()
        records = self.partition.as_read(rows).cast("binary").to_pylist()
        codes = self.notes.codes[:count].tolist()
        return [
            AsideRow(row, line, self.steps[code], self.notes.reasons[code], record)
            for row, line, code, record in zip(rows.tolist(), lines, codes, records, strict=True)
        ]


def aside_rows(partition: Partition, noted: Sequence[tuple[str, RowNotes]]) -> AsideRows:
    """The rows that steps set aside, each step named before its notes, in the order of the rows."""
    noted = [(step, notes) for step, notes in noted if len(notes)]
    steps = tuple(step for step, notes in noted for _ in notes.reasons)
    return AsideRows(partition, merged([notes for _, notes in noted]), steps)


class AsideFile(Protocol):
    """The file of rows set aside. It is made only when there is a row for it."""

    def add(self, rows: AsideRows) -> None:
        """Writes rows, which are not kept."""
        ...

    def commit(self) -> None: ...

    def discard(self) -> None:
        """Leaves the place as it was. Does nothing after `commit`."""
        ...
