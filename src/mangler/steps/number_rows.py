"""`number rows`: a running number as a new column."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa

from mangler.kernels.text.fields import entries_of
from mangler.kernels.text.text_view import Flags
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Name
from mangler.language.mistake import wrong_recipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.counted_rows import CountingStep
from mangler.steps.shared.counters import CHANGES
from mangler.steps.shared.failing import STOP
from mangler.steps.within.binding import SORTED_BY, WITHIN, group_of, is_within
from mangler.steps.within.calls import RowNumber
from mangler.steps.within.making import WithinGathering
from mangler.steps.within.sorted_rows import Result
from mangler.steps.within.windows import Windows
from mangler.table.batch import Batch
from mangler.table.contract import Gathering, GatheringStep
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="number rows",
    usage="number rows as NAME [within COLUMNS|within all rows] [sorted by {COLUMN [descending]}, …] [from NUMBER]",
    meaning="Numbers the rows in the order in which they come here, one after the other, in a new column that is"
    " last. With within each group has numbers of its own, with sorted by in another order; the rows stay"
    " where they are.",
    clauses={
        "within": WITHIN,
        "within all rows": "The whole table is one group.",
        "sorted by": SORTED_BY,
        "from": "The first number; 1 by default.",
    },
    examples=(
        Example(
            "number rows as no from 10",
            "kiln\n007\n012",
            "kiln | no integer\n007 | 10\n012 | 11",
        ),
        Example(
            "number rows as firing within kiln sorted by fired_on",
            "kiln | fired_on date\n007 | 2026-05-11\n012 | 2026-05-04\n007 | 2026-05-04",
            "kiln | fired_on date | firing integer\n007 | 2026-05-11 | 2\n012 | 2026-05-04 | 1\n"
            "007 | 2026-05-04 | 1",
        ),
    ),
    counters=CHANGES,
)


@dataclass(frozen=True)
class Number(CountingStep):
    """The state is a number of rows."""

    schema: Schema
    first: int

    def apply(self, batch: Batch, before: int, own: int) -> tuple[Batch, Tally]:
        start = self.first + before
        numbers = pa.array(np.arange(start, start + own, dtype=np.int64))
        tally = Tally(rows_in=own, rows_out=own)
        tally.counts["cells_changed"] = own
        return batch.with_columns([*entries_of(batch.columns), numbers]), tally


@dataclass(frozen=True)
class NumberWithin(GatheringStep):
    """Numbers the rows of each group: they are gathered first."""

    schema: Schema
    windows: Windows
    first: int

    def gather(self, budget: MemoryBudget) -> Gathering:
        def made(batch: Batch, met: Flags | None, values: Sequence[Result], tally: Tally) -> Batch:  # noqa: ARG001
            numbers = pa.array(np.asarray(values[0].array) + (self.first - 1))
            tally.counts["cells_changed"] += len(batch)
            return batch.with_columns([*batch.columns, numbers])

        return WithinGathering(self.windows, None, STOP, made, budget)


def bind(statement: Statement, schema: Schema) -> Number | NumberWithin:
    name = statement.get("as", Name)
    assert name is not None
    if name.value in schema.names:
        raise wrong_recipe(
            "name-taken",
            f'there is a column "{name.value}" already',
            "Number the rows under another name.",
            name.span,
        )
    first = 1 if (said := statement.number("from")) is None else said
    numbered = Schema((*schema.columns, Column(name.value, ValueType.INTEGER)), schema.gone)
    if not is_within(statement) and not statement.has("sorted by"):
        return Number(numbered, first)
    group = group_of(statement, schema, DECLARATION.usage)
    windows = Windows(
        schema, group.keys, group.order, group.sort_keys, (RowNumber("number"),), statement.span
    )
    return NumberWithin(numbered, windows, first)
