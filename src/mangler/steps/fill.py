"""`fill`: a value in the place of nulls, the same for all or the one above."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.fill_down import fill_from, group_rows, sources_above
from mangler.kernels.text_view import view
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Number, Text, Truth
from mangler.language.mistake import Mistake, wrong_recipe
from mangler.language.source import Place
from mangler.language.statement import Statement
from mangler.steps.columnwise import (
    ColumnwiseStep,
    begun,
    choose,
    column_remarks,
    remarks_on_condition,
    where,
)
from mangler.steps.failing import FAILURES
from mangler.steps.literals import WIDENED, literal_kind, scalar_of
from mangler.table.batch import Batch
from mangler.table.contract import BoundStep
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import Selection
from mangler.table.tally import Tally

if TYPE_CHECKING:
    from mangler.steps.conditions import Condition

DECLARATION = Declaration(
    name="fill",
    usage="fill COLUMNS (with EXPR|down|up) [within COLUMNS] [where CONDITION] [failures (stop|aside|null)]",
    meaning="Puts a value in the place of nulls, and only of nulls: empty texts stay, and the summary counts them.",
    clauses={
        "with": "The value, or an expression that makes it of the row's other cells; it is of the column's type.",
        "failures": f"{FAILURES}; null leaves the cell null.",
        "down": "The value of the nearest row above that has one; nulls above the first value stay.",
        "up": "The value of the nearest row below that has one; it must see all rows first.",
        "within": "Only rows that agree in these columns give a value to each other; for down and up.",
    },
    examples=(
        Example('fill studio with "unknown"', 'studio\nQuayside\nnull\n""', 'studio\nQuayside\nunknown\n""'),
        Example(
            'fill contacts with "{lower(studio)}@example.org" where result = "good"',
            "studio | contacts | result\nQuayside | null | good\nQuayside | null | cracked",
            "studio | contacts | result\nQuayside | quayside@example.org | good\nQuayside | null | cracked",
        ),
        Example(
            "fill studio down",
            "kiln | studio\n007 | null\n007 | Clay Works\n012 | null",
            "kiln | studio\n007 | null\n007 | Clay Works\n012 | Clay Works",
        ),
        Example("fill kiln up", "kiln\nnull\n007\nnull", "kiln\n007\n007\nnull"),
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
                "within goes with down and up: a value does not look at other rows",
                "Leave within out, or write fill … down within ….",
                statement.place_of("within"),
            )
        )
    if value is None and statement.has("failures"):
        mistakes.append(
            Mistake(
                "failures goes with with: down and up cannot fail",
                "Leave it out.",
                statement.place_of("failures"),
            )
        )
    return mistakes


def bind(statement: Statement, schema: Schema) -> BoundStep:
    usage = DECLARATION.usage
    selection = choose(statement, schema, usage, types=None)
    condition = where(statement, schema, usage)
    if not statement.has("with"):
        within = choose(statement, schema, usage, "within", None).indices if statement.has("within") else ()
        down = FillDown(schema, selection, within, condition)
        if statement.has("down"):
            return down
        from mangler.steps.fill_up import FillUp

        return FillUp(down)
    value = statement.values["with"]
    if isinstance(value, (Text, Truth, Number)):
        return _fill_with(statement, schema, selection, value, condition)
    from mangler.steps.fill_with import fill_with_expression

    return fill_with_expression(statement, schema, selection, usage, condition)


def _fill_with(
    statement: Statement,
    schema: Schema,
    selection: Selection,
    value: Text | Number | Truth,
    condition: Condition | None,
) -> ColumnwiseStep:
    kind = literal_kind(value)
    for index in selection.indices:
        refuse_other_type(schema.columns[index], kind, value.place)

    def work(column: Any, tally: Tally) -> Any:
        count_empties(column, tally)
        if not column.null_count:
            return column
        tally.nulls_filled += column.null_count
        tally.cells_changed += column.null_count
        return pc.fill_null(column, scalar_of(value, column.type))

    return ColumnwiseStep(schema, statement, selection, work, advise, IDLE, condition)


def refuse_other_type(column: Column, kind: ValueType, place: Place) -> None:
    """A value is of the column's type, or a number that the type has a place for."""
    if column.type is kind or (kind, column.type) in WIDENED:
        return
    text = column.type is ValueType.TEXT
    advice = (
        f'Write it as a text, "{place.text}": delimited text is read as text.'
        if text and kind is not ValueType.LIST
        else f"Give a value that is {column.type}; several columns are filled family by family:"
        ' fill text columns with "", fill numeric columns with 0.'
    )
    raise wrong_recipe(f'"{column.name}" is {column.type}, and {place.text} is {kind}', advice, place)


@dataclass(frozen=True)
class FillDown:
    """Carries, for each column and group of rows, the last value that was not null."""

    schema: Schema
    selection: Selection
    within: tuple[int, ...]
    condition: Condition | None = None

    def start(self) -> dict[int, dict[tuple[Any, ...], str]]:
        return {index: {} for index in self.selection.indices}

    def carry_on(self, batch: Batch, carried: Any) -> tuple[Batch, Tally]:
        batch, met, tally = begun(batch, self.condition)
        tally.rows_out = len(batch)
        if not len(batch):
            return batch, tally
        groups, keys = group_rows([batch.columns[index] for index in self.within], len(batch))
        columns = list(batch.columns)
        for index in self.selection.indices:
            column, memory = columns[index], carried[index]
            count_empties(column, tally)
            sources = sources_above(column, groups if self.within else None)
            if column.null_count:
                without = groups[sources < 0].tolist()
                filled_up = fill_from(column, sources, [memory.get(keys[group]) for group in without])
                columns[index] = filled_up if met is None else pc.if_else(pa.array(met), filled_up, column)
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
        advice = [*remarks_on_condition(tally), *advise(tally)]
        return column_remarks(self.selection, tally, advice, IDLE)


def count_empties(column: Any, tally: Tally) -> None:
    if not pa.types.is_string(column.type):
        return
    cells = view(column)
    tally.empties_left += int(np.count_nonzero(cells.only_valid(cells.lengths == 0)))


def advise(tally: Tally) -> list[str]:
    if not tally.empties_left:
        return []
    texts = "empty text was" if tally.empties_left == 1 else "empty texts were"
    return [f'{tally.empties_left:,} {texts} left, being no nulls; to null first: nullify "" in …']
