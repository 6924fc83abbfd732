"""`fill … down`: nulls take the value above them."""

from __future__ import annotations

from typing import Any, TypeAlias

import numpy as np
import pyarrow.compute as pc

from mangler.kernels.arrow import from_numpy
from mangler.kernels.keys.fill_down import Groups, fill_from, group_rows, sources_above
from mangler.kernels.text.text_view import Flags
from mangler.late_dataclass import dataclass
from mangler.steps.fill.common import IDLE, advise, count_empties
from mangler.steps.shared.columnwise import apply_where, column_remarks, remarks_on_condition
from mangler.steps.shared.conditions import Condition
from mangler.table.batch import Batch
from mangler.table.contract import OrderedStep
from mangler.table.schema import Schema
from mangler.table.select import Selection
from mangler.table.tally import Tally

Key: TypeAlias = tuple[Any, ...]


@dataclass(frozen=True)
class _Work:
    """What is computed once for a batch: its rows and groups, and for each column where values come from."""

    batch: Batch
    met: Flags | None
    tally: Tally
    groups: Groups
    keys: list[Key]
    sources: dict[int, Any]


@dataclass
class LastValues:
    """The last value that is not null, for each column by its index and each group of rows.

    Values are Arrow's own: Python's types do not hold all of them, such as nanoseconds.
    """

    values: dict[int, dict[Key, Any]]
    work: _Work | None = None
    """For the batch that was summarised; states that are combined have none."""


@dataclass(frozen=True)
class FillDown(OrderedStep[LastValues]):
    """`within` are the columns whose values make a group of rows."""

    schema: Schema
    selection: Selection
    within: tuple[int, ...]
    condition: Condition | None = None

    def initial(self) -> LastValues:
        return LastValues({index: {} for index in self.selection.indices})

    def summarise(self, batch: Batch) -> LastValues:
        batch, met, tally = apply_where(batch, self.condition)
        groups, keys = group_rows([batch.columns[index] for index in self.within], len(batch))
        sources = {
            index: sources_above(batch.columns[index], groups if self.within else None)
            for index in self.selection.indices
        }
        state = self.initial()
        state.work = _Work(batch, met, tally, groups, keys, sources)
        if not len(batch):
            return state
        for index, own in state.values.items():
            # The last row of each group has as its source the last value of the group.
            last = np.full(len(keys), -1, np.intp)
            last[groups] = sources[index]
            column = batch.columns[index]
            filled = np.flatnonzero(last >= 0)
            # Taken, so that a state holds these values only, and not the whole column.
            values = column.take(from_numpy(last[filled]))
            for group, value in zip(filled.tolist(), values, strict=True):
                own[keys[group]] = value
        return state

    def combine(self, earlier: LastValues, later: LastValues) -> LastValues:
        for index, own in later.values.items():
            earlier.values[index].update(own)
        return LastValues(earlier.values)

    def apply(self, batch: Batch, before: LastValues, own: LastValues) -> tuple[Batch, Tally]:
        work = own.work
        assert work is not None
        batch, tally = work.batch, work.tally
        tally.rows_out = len(batch)
        columns = list(batch.columns)
        for index in self.selection.indices if len(batch) else ():
            column, memory, sources = columns[index], before.values[index], work.sources[index]
            count_empties(column, tally)
            if not column.null_count:
                continue
            without = work.groups[sources < 0].tolist()
            filled = fill_from(column, sources, [memory.get(work.keys[group]) for group in without])
            columns[index] = filled if work.met is None else pc.if_else(from_numpy(work.met), filled, column)
            count = column.null_count - columns[index].null_count
            tally.counts["nulls_filled"] += count
            tally.counts["cells_changed"] += count
        return batch.with_columns(columns), tally

    def remarks(self, tally: Tally) -> list[str]:
        advice = [*remarks_on_condition(tally), *advise(tally)]
        return column_remarks(self.selection, tally, advice, IDLE)
