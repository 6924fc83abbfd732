"""`keep columns`: these columns and no others."""

from __future__ import annotations

from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.shared.columnwise import ColumnChoice, choose
from mangler.table.schema import Schema

DECLARATION = Declaration(
    name="keep columns",
    usage="keep columns COLUMNS",
    meaning="Keeps these columns, in the order they have in the table, and drops all others.",
    examples=(
        Example(
            "keep columns result, kiln", "kiln | cone | result\n007 | 06 | good", "kiln | result\n007 | good"
        ),
    ),
)


def bind(statement: Statement, schema: Schema) -> ColumnChoice:
    indices = choose(statement, schema, DECLARATION.usage, types=None).indices
    return ColumnChoice(schema.pick(indices, statement.line), indices)
