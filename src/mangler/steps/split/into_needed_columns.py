"""A split into as many columns as the data needs: counted over all rows before the first one is split."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import field
from typing import TYPE_CHECKING

import numpy as np

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.parts import Numbers
from mangler.language.mistake import extract_does_not_fit
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.columnwise import apply_where, where
from mangler.steps.shared.new_columns import MOST_COLUMNS, apply_per_distinct
from mangler.steps.shared.splitter import Splitter
from mangler.steps.split.into_columns import SplitColumns, columns_step
from mangler.table.batch import Batch
from mangler.table.contract import Gathering, GatheringStep
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Schema
from mangler.table.spillable_rows import SpillableRows
from mangler.table.state import StateReader, StateWriter
from mangler.table.tally import Tally

if TYPE_CHECKING:
    from mangler.steps.shared.conditions import Condition


@dataclass(frozen=True)
class SplitOpen(GatheringStep):
    """`schema` has the columns that come in: the columns that come out are known when all rows were counted."""

    schema: Schema
    statement: Statement
    index: int
    splitter: Splitter
    usage: str
    condition: Condition | None
    is_open = True

    def gather(self, budget: MemoryBudget) -> SplittingOpen:
        return SplittingOpen(self, SpillableRows(budget))


@dataclass
class SplittingOpen(Gathering):
    step: SplitOpen
    rows: SpillableRows
    needed: int = 1
    resolved_step: SplitColumns | None = None
    tally: Tally = field(default_factory=Tally)

    def absorb(self, batch: Batch, partition: int) -> None:
        self.rows.add(batch, partition)
        counted, met, _ = apply_where(batch, self.step.condition)
        _, (needed,) = apply_per_distinct(counted.columns[self.step.index], met, self._count)
        most = int(needed.max(initial=0))
        if most > MOST_COLUMNS:
            row = int(counted.rows[int(needed.argmax())])
            raise extract_does_not_fit(
                "too-many-columns",
                f"row {row:,} has {most:,} parts, and this would be as many columns",
                f"Up to {MOST_COLUMNS:,} are made. Split into rows, or say how many: into columns 20 too many cut.",
                self.step.statement.span,
            )
        self.needed = max(self.needed, most)

    def merge(self, later: SplittingOpen) -> None:
        self.rows.extend(later.rows.consume(), later.rows.runs)
        self.needed = max(self.needed, later.needed)

    def dump(self, state: StateWriter) -> None:
        state.record({"needed": self.needed})
        self.rows.dump(state)

    def load(self, state: StateReader) -> None:
        self.needed = max(self.needed, state.record()["needed"])
        self.rows.load(state)

    def _count(self, column: ColumnArray) -> tuple[list[ColumnArray], list[Numbers]]:
        """For each cell the place of its last part that is not empty, from 1."""
        parts = self.step.splitter.cut(column)
        filled = np.flatnonzero(~parts.empty)
        needed = np.zeros(len(column), np.int64)
        cells = np.searchsorted(parts.first, filled, side="right") - 1
        needed[cells] = filled - parts.first[cells] + 1  # of equal places the last value stays
        return [], [needed]

    def settle(self) -> SplitColumns:
        step = self.step
        self.resolved_step = columns_step(
            step.statement, step.schema, step.index, step.splitter, step.usage, needed=self.needed
        )
        return self.resolved_step

    def release(self) -> Iterator[Batch]:
        assert self.resolved_step is not None
        for batch in self.rows:
            done, tally = self.resolved_step.process(batch)
            self.tally.add(tally)
            yield done
        self.rows.close()


def open_step(statement: Statement, schema: Schema, index: int, splitter: Splitter, usage: str) -> SplitOpen:
    return SplitOpen(schema, statement, index, splitter, usage, where(statement, schema, usage))
