"""`fill … up`: nulls take the value below them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import field

import numpy as np

from mangler.late_dataclass import dataclass
from mangler.steps.fill.down import FillDown
from mangler.table.batch import Batch
from mangler.table.contract import Gathering, GatheringStep
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Schema
from mangler.table.spillable_rows import SpillableRows
from mangler.table.state import StateReader, StateWriter
from mangler.table.tally import Tally


@dataclass(frozen=True)
class FillUp(GatheringStep):
    """Filling down, from the last row to the first."""

    down: FillDown

    @property
    def schema(self) -> Schema:
        return self.down.schema

    def gather(self, budget: MemoryBudget) -> FillingUp:
        return FillingUp(self.down, budget, SpillableRows(budget))

    def remarks(self, tally: Tally) -> list[str]:
        return self.down.remarks(tally)


@dataclass
class FillingUp(Gathering):
    down: FillDown
    budget: MemoryBudget
    rows: SpillableRows
    tally: Tally = field(default_factory=Tally)

    def absorb(self, batch: Batch, partition: int) -> None:
        self.rows.add(batch, partition)

    def merge(self, later: FillingUp) -> None:
        self.rows.extend(later.rows.consume(), later.rows.runs)

    def dump(self, state: StateWriter) -> None:
        self.rows.dump(state)

    def load(self, state: StateReader) -> None:
        self.rows.load(state)

    def release(self) -> Iterator[Batch]:
        before = self.down.initial()
        mirrored = SpillableRows(self.budget)
        for batch in self.rows.backwards():
            turned = _mirror(batch)
            own = self.down.summarise(turned)
            filled, tally = self.down.apply(turned, before, own)
            before = self.down.combine(before, own)
            self.tally.add(tally)
            mirrored.add(filled)
        self.rows.close()
        for batch in mirrored.backwards():
            yield _mirror(batch)
        mirrored.close()


def _mirror(batch: Batch) -> Batch:
    """The rows from the last to the first."""
    return batch.take(np.arange(len(batch) - 1, -1, -1))
