"""`fill`: a value in the place of nulls."""

from __future__ import annotations

from typing import Any

import numpy as np
import pyarrow.compute as pc

from mangler.kernels.text_view import view
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Number, Text, Truth
from mangler.language.mistake import Mistake, wrong_recipe
from mangler.language.statement import Statement
from mangler.steps.columnwise import ColumnwiseStep, choose
from mangler.table.schema import Schema, ValueType
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="fill",
    usage="fill COLUMNS with VALUE [where CONDITION]",
    meaning="Puts a value in the place of nulls, and only of nulls: empty texts stay, and the summary counts them."
    " The value is of the column's type.",
    clauses={},
    examples=(
        Example('fill studio with "unknown"', 'studio\nQuayside\nnull\n""', 'studio\nQuayside\nunknown\n""'),
    ),
)


def check(statement: Statement) -> list[Mistake]:
    value: Text | Number | Truth = statement.values["with"]
    if isinstance(value, Truth) and value.value is None:
        return [
            Mistake("nulls cannot be filled with null", 'Give a value: fill … with "unknown".', value.place)
        ]
    return []


def bind(statement: Statement, schema: Schema) -> ColumnwiseStep:
    selection = choose(statement, schema, DECLARATION.usage, types=None)
    value: Text | Number | Truth = statement.values["with"]
    kind = _type_of(value)
    for index in selection.indices:
        column = schema.columns[index]
        if column.type is not kind:
            raise wrong_recipe(
                f'"{column.name}" is {column.type}, and {value.place.text} is {kind}',
                f'Write it as a text, "{value.place.text}": delimited text is read as text.',
                value.place,
            )

    def work(column: Any, tally: Tally) -> Any:
        cells = view(column)
        tally.empties_left += int(np.count_nonzero(cells.only_valid(cells.lengths == 0)))
        if not column.null_count:
            return column
        tally.nulls_filled += column.null_count
        tally.cells_changed += column.null_count
        return pc.fill_null(column, value.value)

    return ColumnwiseStep(schema, statement, selection, work, _advise, "these columns have no nulls")


def _type_of(value: Text | Number | Truth) -> ValueType:
    if isinstance(value, Text):
        return ValueType.TEXT
    if isinstance(value, Truth):
        return ValueType.BOOLEAN
    return ValueType.INTEGER if isinstance(value.value, int) else ValueType.DECIMAL


def _advise(tally: Tally) -> list[str]:
    if not tally.empties_left:
        return []
    texts = "empty text was" if tally.empties_left == 1 else "empty texts were"
    return [f'{tally.empties_left:,} {texts} left, being no nulls; to null first: nullify "" in …']
