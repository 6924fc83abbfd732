"""A split into as many columns as the data needs: counted over all rows before the first one is split."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from mangler.kernels.parts import Numbers
from mangler.language.mistake import extract_does_not_fit
from mangler.language.statement import Statement
from mangler.steps.columnwise import begun, where
from mangler.steps.cutting import Cutting
from mangler.steps.new_columns import MOST_COLUMNS, worked_out
from mangler.steps.split_columns import SplitColumns, columns_step
from mangler.table.batch import Batch
from mangler.table.gathered import Gathered
from mangler.table.room import Room
from mangler.table.schema import Schema
from mangler.table.tally import Tally


@dataclass(frozen=True)
class SplitOpen:
    """`schema` has the columns that come in: those that come out are known when all rows were counted."""

    schema: Schema
    statement: Statement
    index: int
    cutting: Cutting
    usage: str
    condition: Any
    is_open = True

    def gather(self, room: Room) -> SplittingOpen:
        return SplittingOpen(self, Gathered(room))

    def remarks(self, tally: Tally) -> list[str]:  # noqa: ARG002
        return []


@dataclass
class SplittingOpen:
    step: SplitOpen
    rows: Gathered
    needed: int = 1
    settled: SplitColumns | None = None
    tally: Tally = field(default_factory=Tally)

    def absorb(self, batch: Batch) -> None:
        self.rows.add(batch)
        counted, met, _ = begun(batch, self.step.condition)
        _, (needed,) = worked_out(counted.columns[self.step.index], met, self._count)
        most = int(needed.max(initial=0))
        if most > MOST_COLUMNS:
            row = int(counted.rows[int(needed.argmax())])
            raise extract_does_not_fit(
                f"row {row:,} has {most:,} parts, and this would be as many columns",
                f"Up to {MOST_COLUMNS:,} are made. Split into rows, or say how many: into columns 20 too many cut.",
                self.step.statement.place,
            )
        self.needed = max(self.needed, most)

    def _count(self, column: Any) -> tuple[list[Any], list[Numbers]]:
        """For each cell the place of its last part that is not empty, from 1."""
        parts = self.step.cutting.cut(column)
        filled = np.flatnonzero(~parts.empty)
        needed = np.zeros(len(column), np.int64)
        cells = np.searchsorted(parts.first, filled, side="right") - 1
        needed[cells] = filled - parts.first[cells] + 1  # of equal places the last value stays
        return [], [needed]

    def settle(self) -> SplitColumns:
        step = self.step
        self.settled = columns_step(
            step.statement, step.schema, step.index, step.cutting, step.usage, needed=self.needed
        )
        return self.settled

    def release(self) -> Iterator[Batch]:
        assert self.settled is not None
        for batch in self.rows:
            done, tally = self.settled.process(batch)
            self.tally.add(tally)
            yield done
        self.rows.close()


def open_step(statement: Statement, schema: Schema, index: int, cutting: Cutting, usage: str) -> SplitOpen:
    return SplitOpen(schema, statement, index, cutting, usage, where(statement, schema, usage))
