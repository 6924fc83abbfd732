"""A split of several columns, each by itself, one after the other."""

from __future__ import annotations

from collections.abc import Sequence

from mangler.late_dataclass import dataclass
from mangler.steps.split.into_columns import SplitColumns
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.row_notes import merged
from mangler.table.schema import Schema
from mangler.table.tally import Tally


@dataclass(frozen=True)
class EachByItself(RowStep):
    """The splits in the order of their columns."""

    steps: tuple[SplitColumns, ...]
    ways_out = SplitColumns.ways_out

    @property
    def schema(self) -> Schema:
        return self.steps[-1].schema

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        total, asides = Tally(), []
        rows = len(batch)
        for step in self.steps:
            batch, tally = step.process(batch)
            asides.append(tally.aside)
            total.add(tally)
        total.aside = merged(asides)  # in a total of tallies there are only the first few
        total.rows_in, total.rows_out = rows, len(batch)
        return batch, total

    def facts(self, tally: Tally) -> list[str]:
        return self.steps[0].facts(tally)

    def remarks(self, tally: Tally) -> list[str]:
        return self.steps[0].remarks(tally)


def each_by_itself(steps: Sequence[SplitColumns]) -> EachByItself:
    return EachByItself(tuple(steps))
