"""`number rows`: a running number as a new column."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pyarrow as pa

from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Name
from mangler.language.mistake import wrong_recipe
from mangler.language.statement import Statement
from mangler.table.batch import Batch
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
)


@dataclass(frozen=True)
class Number:
    schema: Schema
    first: int

    def start(self) -> list[int]:
        return [self.first]

    def carry_on(self, batch: Batch, carried: list[int]) -> tuple[Batch, Tally]:
        number = carried[0]
        carried[0] += len(batch)
        numbers = pa.array(np.arange(number, number + len(batch), dtype=np.int64))
        tally = Tally(rows_in=len(batch), rows_out=len(batch), cells_changed=len(batch))
        return batch.with_columns([*batch.columns, numbers]), tally

    def remarks(self, tally: Tally) -> list[str]:  # noqa: ARG002
        return []


def bind(statement: Statement, schema: Schema) -> Number:
    name = statement.get("as", Name)
    assert name is not None
    if name.value in schema.names:
        raise wrong_recipe(
            f'there is a column "{name.value}" already', "Number the rows under another name.", name.place
        )
    first = 1 if (said := statement.number("from")) is None else said
    return Number(Schema((*schema.columns, Column(name.value, ValueType.INTEGER)), schema.gone), first)
