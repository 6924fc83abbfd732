"""`trim`: white space off the ends of cells, and runs of it inside."""

from __future__ import annotations

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.white_space import squeeze, trim
from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.shared.columnwise import ColumnwiseStep, choose, where
from mangler.steps.shared.counters import CHANGES, CONDITION, EMPTIED
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="trim",
    usage="trim COLUMNS [left|right] [squeeze [lines]] [where CONDITION]",
    meaning="Takes white space off both ends of cells, or off one: what a person would call blank, no-break"
    " spaces and marks of no width among it. A cell with nothing left is empty text, not null.",
    clauses={
        "left": "Only at the start of cells.",
        "right": "Only at the end of cells.",
        "squeeze": "A run of white space inside a cell becomes one space, or one line break if it holds any;"
        " with lines always a space. Marks of no width disappear.",
    },
    examples=(
        Example(
            "trim studio squeeze",
            'studio\n"  Clay  Works "\nClay Works\n""\n"   "',
            'studio\nClay Works\nClay Works\n""\n""',
        ),
        Example("trim notes squeeze lines", 'notes\n"dry \\n\\n slow"', "notes\ndry slow"),
        Example("trim cone left", 'cone\n" 06 "', 'cone\n"06 "'),
    ),
    counters=(*CHANGES, *EMPTIED, *CONDITION),
)


def bind(statement: Statement, schema: Schema) -> ColumnwiseStep:
    left, right = not statement.has("right"), not statement.has("left")
    squeezes, lines = statement.has("squeeze"), statement.values.get("squeeze") == "lines"

    def work(column: ColumnArray, tally: Tally) -> ColumnArray:
        cleaned = squeeze(column, left, right, lines) if squeezes else trim(column, left, right)
        tally.counts["cells_changed"] += cleaned.changed
        tally.counts["cells_emptied"] += cleaned.emptied
        return cleaned.array

    idle = "these cells have no such white space"
    selection, condition = (
        choose(statement, schema, DECLARATION.usage),
        where(statement, schema, DECLARATION.usage),
    )
    return ColumnwiseStep(schema, statement, selection, work, _advise, idle, condition)


def _advise(tally: Tally) -> list[str]:
    if not tally.counts["cells_emptied"]:
        return []
    cells = "cell has" if tally.counts["cells_emptied"] == 1 else "cells have"
    return [
        f'{tally.counts["cells_emptied"]:,} {cells} nothing left and became empty text; to null: nullify "" in …'
    ]
