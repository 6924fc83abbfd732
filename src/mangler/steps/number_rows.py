"""`number rows`: a running number as a new column."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pyarrow as pa

from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Name
from mangler.language.mistake import wrong_recipe
from mangler.language.statement import Statement
from mangler.steps.shared.counters import CHANGES
from mangler.table.batch import Batch
from mangler.table.contract import OrderedStep
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="number rows",
    usage="number rows as NAME [from NUMBER]",
    meaning="Numbers the rows as they stand here, one after the other, in a new column that stands last.",
    clauses={"from": "The first number; 1 if nothing is said."},
    examples=(
        Example(
            "number rows as no from 10",
            "kiln\n007\n012",
            "kiln | no integer\n007 | 10\n012 | 11",
        ),
    ),
    counters=CHANGES,
)


@dataclass(frozen=True)
class Number(OrderedStep[int]):
    """The state is a number of rows."""

    schema: Schema
    first: int

    def initial(self) -> int:
        return 0

    def summarise(self, batch: Batch) -> int:
        return len(batch)

    def combine(self, earlier: int, later: int) -> int:
        return earlier + later

    def apply(self, batch: Batch, before: int, own: int) -> tuple[Batch, Tally]:
        start = self.first + before
        numbers = pa.array(np.arange(start, start + own, dtype=np.int64))
        tally = Tally(rows_in=own, rows_out=own)
        tally.counts["cells_changed"] = own
        return batch.with_columns([*batch.columns, numbers]), tally


def bind(statement: Statement, schema: Schema) -> Number:
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
    return Number(Schema((*schema.columns, Column(name.value, ValueType.INTEGER)), schema.gone), first)
