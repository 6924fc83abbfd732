"""`fill`: a value in the place of nulls, the same for all or the one above."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import pyarrow.compute as pc

from mangler.kernels.fill_down import fill_from, group_rows, sources_above
from mangler.kernels.text_view import view
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Number, Text, Truth
from mangler.language.mistake import Mistake, wrong_recipe
from mangler.language.statement import Statement
from mangler.steps.columnwise import ColumnwiseStep, choose, column_remarks
from mangler.table.batch import Batch
from mangler.table.contract import BoundStep
from mangler.table.schema import Schema, ValueType
from mangler.table.select import Selection
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="fill",
    usage="fill COLUMNS (with VALUE|down) [within COLUMNS] [where CONDITION]",
    meaning="Puts a value in the place of nulls, and only of nulls: empty texts stay, and the summary counts them.",
    clauses={
        "with": "The value; it is of the column's type.",
        "down": "The value of the nearest row above that has one; nulls above the first value stay.",
        "within": "Only rows that agree in these columns give a value to each other; for down.",
    },
    examples=(
        Example('fill studio with "unknown"', 'studio\nQuayside\nnull\n""', 'studio\nQuayside\nunknown\n""'),
        Example(
            "fill studio down",
            "kiln | studio\n007 | null\n007 | Clay Works\n012 | null",
            "kiln | studio\n007 | null\n007 | Clay Works\n012 | Clay Works",
        ),
        Example(
            "fill studio down within kiln",
            "kiln | studio\n007 | Clay Works\n115 | Quayside\n007 | null\n115 | null\n012 | null",
            "kiln | studio\n007 | Clay Works\n115 | Quayside\n007 | Clay Works\n115 | Quayside\n012 | null",
        ),
    ),
)
IDLE = "these columns have no nulls"


def check(statement: Statement) -> list[Mistake]:
    value = statement.values.get("with")
    mistakes = []
    if isinstance(value, Truth) and value.value is None:
        mistakes.append(
            Mistake("nulls cannot be filled with null", 'Give a value: fill … with "unknown".', value.place)
        )
    if value is not None and statement.has("within"):
        mistakes.append(
            Mistake(
                "within goes with down: a value is the same in all rows",
                "Leave within out, or write fill … down within ….",
                statement.place_of("within"),
            )
        )
    return mistakes


def bind(statement: Statement, schema: Schema) -> BoundStep:
    selection = choose(statement, schema, DECLARATION.usage, types=None)
    if statement.has("down"):
        within = (
            choose(statement, schema, DECLARATION.usage, "within", None).indices
            if statement.has("within")
            else ()
        )
        return FillDown(schema, selection, within)
    return _fill_with(statement, schema, selection)


def _fill_with(statement: Statement, schema: Schema, selection: Selection) -> ColumnwiseStep:
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
        _count_empties(column, tally)
        if not column.null_count:
            return column
        tally.nulls_filled += column.null_count
        tally.cells_changed += column.null_count
        return pc.fill_null(column, value.value)

    return ColumnwiseStep(schema, statement, selection, work, _advise, IDLE)


@dataclass(frozen=True)
class FillDown:
    """Carries, for each column and group of rows, the last value that was not null."""

    schema: Schema
    selection: Selection
    within: tuple[int, ...]

    def start(self) -> dict[int, dict[tuple[Any, ...], str]]:
        return {index: {} for index in self.selection.indices}

    def carry_on(self, batch: Batch, carried: Any) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch), rows_out=len(batch))
        if not len(batch):
            return batch, tally
        groups, keys = group_rows([batch.columns[index] for index in self.within], len(batch))
        columns = list(batch.columns)
        for index in self.selection.indices:
            column, memory = columns[index], carried[index]
            _count_empties(column, tally)
            sources = sources_above(column, groups if self.within else None)
            if column.null_count:
                without = groups[sources < 0].tolist()
                columns[index] = fill_from(column, sources, [memory.get(keys[group]) for group in without])
                filled = column.null_count - columns[index].null_count
                tally.nulls_filled += filled
                tally.cells_changed += filled
            # The last row of each group has as its source the value to carry on.
            last = np.full(len(keys), -1, np.intp)
            last[groups] = sources
            for group in np.flatnonzero(last >= 0).tolist():
                memory[keys[group]] = column[int(last[group])].as_py()
        return batch.with_columns(columns), tally

    def remarks(self, tally: Tally) -> list[str]:
        return column_remarks(self.selection, tally, _advise(tally), IDLE)


def _count_empties(column: Any, tally: Tally) -> None:
    cells = view(column)
    tally.empties_left += int(np.count_nonzero(cells.only_valid(cells.lengths == 0)))


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
