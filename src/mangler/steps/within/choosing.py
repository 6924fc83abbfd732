"""Keeps rows by their place in their group: what `keep first`, `keep last` and `dedupe … leaving` do alike."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from mangler.expressions.aggregates.bind import BoundAggregate
from mangler.expressions.aggregates.counting import Count
from mangler.kernels.text.text_view import Flags
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass
from mangler.steps.shared.failing import STOP
from mangler.steps.within.binding import Group
from mangler.steps.within.calls import GroupValue, RowNumber, WindowCall
from mangler.steps.within.making import WithinGathering
from mangler.steps.within.sorted_rows import Result
from mangler.steps.within.windows import Windows
from mangler.table.batch import Batch
from mangler.table.contract import Gathering, GatheringStep
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Schema
from mangler.table.tally import Tally

Prepare = Callable[[Batch], Batch]


@dataclass(frozen=True)
class KeepPlaces(GatheringStep):
    """Keeps the first rows of each group, or the last. Rows that stay are where they were.

    `prepare` adds columns that only the order needs; they are behind those of `schema`.
    """

    schema: Schema
    windows: Windows
    count: int
    last: bool
    remark: str
    """What is said where all rows stay."""
    prepare: Prepare | None = None

    def gather(self, budget: MemoryBudget) -> Gathering:
        width = len(self.schema.columns)

        def made(batch: Batch, met: Flags | None, values: Sequence[Result], tally: Tally) -> Batch:  # noqa: ARG001
            numbers = np.asarray(values[0].array)
            stay = numbers <= self.count
            if self.last:
                stay = numbers > np.asarray(values[1].array) - self.count
            out = batch.with_columns(batch.columns[:width])
            return out if stay.all() else out.filter(stay)

        return WithinGathering(self.windows, None, STOP, made, budget, self.prepare)

    def remarks(self, tally: Tally) -> list[str]:
        return [self.remark] if tally.rows_in and tally.rows_in == tally.rows_out else []


def keep_places(
    schema: Schema,
    group: Group,
    count: int,
    last: bool,
    span: SourceSpan,
    remark: str,
    prepare: Prepare | None = None,
    prepared: Schema | None = None,
) -> KeepPlaces:
    calls: list[WindowCall] = [RowNumber("number")]
    if last:
        calls.append(GroupValue(BoundAggregate("rows", None, None, Count(), span, skips_nulls=False)))
    windows = Windows(prepared or schema, group.keys, group.order, group.sort_keys, tuple(calls), span)
    return KeepPlaces(schema, windows, count, last, remark, prepare)
