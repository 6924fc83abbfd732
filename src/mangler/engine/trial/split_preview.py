"""What a split does to single cells: each with its delimiters and the parts that came from it."""

from __future__ import annotations

from dataclasses import field, replace

from mangler.language.tables import Cell
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.contract import SplitOfCells, Step
from mangler.table.schema import Schema
from mangler.table.small import cells_of

MOST_ALIKE = 10
"""Different cells with the same number of parts that are kept."""
MOST_KEPT = 60


@dataclass(frozen=True)
class SplitCell:
    """A cell of the column that is split, where it was met first, and how many cells are alike."""

    row: int
    cell: str
    delimiters: tuple[tuple[int, int], ...]
    """Where delimiters start and end, in characters."""
    count: int
    """How many parts it has."""
    parts: tuple[dict[str, Cell], ...]
    """The new columns of each row that came from it; none where it is set aside or fails."""
    reason: str
    """Why it is set aside or fails."""
    times: int


@dataclass
class SplitPreview:
    """Different cells of the column, some of every number of parts."""

    column: str
    split: SplitOfCells
    kept: dict[str, SplitCell] = field(default_factory=dict)
    alike: dict[int, int] = field(default_factory=dict)
    times: dict[str, int] = field(default_factory=dict)

    @property
    def names(self) -> list[str]:
        """The columns that the parts go to."""
        return self.split.new_names

    def note(self, before: Batch) -> None:
        """Looks at the cells of a batch that comes to the step."""
        before = self.split.chosen(before)
        column = before.columns[self.split.index]
        counts = self.split.part_counts(column)
        for index, cell in enumerate(column.to_pylist()):
            if not counts[index]:
                continue
            self.times[cell] = self.times.get(cell, 0) + 1
            alike = self.alike.get(int(counts[index]), 0)
            if cell in self.kept or alike >= MOST_ALIKE or len(self.kept) >= MOST_KEPT:
                continue
            self.kept[cell] = _split_one(self.split, before, index, cell, int(counts[index]))
            self.alike[int(counts[index])] = alike + 1

    @property
    def cells(self) -> list[SplitCell]:
        return [replace(cut, times=self.times[cell]) for cell, cut in self.kept.items()]

    @property
    def others(self) -> int:
        """How many different cells are not kept."""
        return len(self.times) - len(self.kept)


def _split_one(step: SplitOfCells, batch: Batch, index: int, cell: str, count: int) -> SplitCell:
    """The step's work on one row."""
    after, tally = step.process(batch.slice(index, 1))
    reasons = [*(reason for _, reason in tally.aside), *(reason for _, _, reason in tally.failures)]
    columns = {name: cells_of(after.columns[step.schema.names.index(name)]) for name in step.new_names}
    parts = tuple({name: cells[row] for name, cells in columns.items()} for row in range(len(after)))
    spans = tuple(step.delimiters_in(cell))
    return SplitCell(int(batch.rows[index]), cell, spans, count, parts, "; ".join(reasons), 1)


def split_preview_of(step: Step, schema: Schema) -> SplitPreview | None:
    """Where a split's cells are kept; None for other steps. `schema` has the columns that come to it."""
    split = step.split_preview()
    return None if split is None else SplitPreview(schema.names[split.index], split)
