"""What a split does to single cells: each with its delimiters and the parts that came of it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any, Protocol

from mangler.language.tables import Cell
from mangler.steps.cutting import Cutting
from mangler.table.batch import Batch
from mangler.table.contract import StreamingStep, is_open
from mangler.table.schema import Schema
from mangler.table.small import cells_of
from mangler.table.tally import Tally

MOST_ALIKE = 10
"""Different cells with the same number of parts that are kept."""
MOST_KEPT = 60


class Cutter(StreamingStep, Protocol):
    """A step that cuts the cells of one column."""

    @property
    def index(self) -> int: ...

    @property
    def cutting(self) -> Cutting: ...

    @property
    def new_names(self) -> list[str]: ...

    @property
    def condition(self) -> Any: ...


@dataclass(frozen=True)
class CutCell:
    """A cell of the column that is split, where it was met first, and how many cells are alike."""

    row: int
    cell: str
    delimiters: tuple[tuple[int, int], ...]
    """Where delimiters start and end, in characters."""
    count: int
    """How many parts it has."""
    parts: tuple[dict[str, Cell], ...]
    """The new columns of each row that came of it; none where it is set aside or fails."""
    reason: str
    """Why it is set aside or fails."""
    times: int


@dataclass
class Cuts:
    """Different cells of the column, some of every number of parts."""

    column: str
    names: list[str]
    kept: dict[str, CutCell] = field(default_factory=dict)
    alike: dict[int, int] = field(default_factory=dict)
    times: dict[str, int] = field(default_factory=dict)

    def note(self, step: Cutter, before: Batch) -> None:
        """Looks at the cells of a batch that comes to the step."""
        if step.condition is not None:  # other rows are left as they are
            before, met = step.condition.test(before, Tally())
            before = before.filter(met)
        column = before.columns[step.index]
        counts = step.cutting.cut(column).counts
        for index, cell in enumerate(column.to_pylist()):
            if not counts[index]:
                continue
            self.times[cell] = self.times.get(cell, 0) + 1
            alike = self.alike.get(int(counts[index]), 0)
            if cell in self.kept or alike >= MOST_ALIKE or len(self.kept) >= MOST_KEPT:
                continue
            self.kept[cell] = _cut_one(step, before, index, cell, int(counts[index]))
            self.alike[int(counts[index])] = alike + 1

    @property
    def cells(self) -> list[CutCell]:
        return [replace(cut, times=self.times[cell]) for cell, cut in self.kept.items()]

    @property
    def others(self) -> int:
        """How many different cells are not kept."""
        return len(self.times) - len(self.kept)


def _cut_one(step: Cutter, batch: Batch, index: int, cell: str, count: int) -> CutCell:
    """The step's work on one row."""
    after, tally = step.process(batch.slice(index, 1))
    reasons = [*(reason for _, reason in tally.aside), *(reason for _, _, reason in tally.failures)]
    columns = {name: cells_of(after.columns[step.schema.names.index(name)]) for name in step.new_names}
    parts = tuple({name: cells[row] for name, cells in columns.items()} for row in range(len(after)))
    spans = tuple(step.cutting.spans(cell))
    return CutCell(int(batch.rows[index]), cell, spans, count, parts, "; ".join(reasons), 1)


def cuts_of(step: Any, schema: Schema) -> Cuts | None:
    """Where a split's cells are kept; None for other steps."""
    if not hasattr(step, "cutting") or is_open(step):
        return None
    return Cuts(schema.names[step.index], step.new_names)
