"""`drop columns`: all columns but these."""

from __future__ import annotations

from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.shared.columnwise import ColumnChoice, choose
from mangler.table.schema import Schema

DECLARATION = Declaration(
    name="drop columns",
    usage="drop columns COLUMNS",
    meaning="Drops these columns and keeps all others.",
    examples=(
        Example(
            "drop columns shelf?, /^peak/", "kiln | peak_c | cone\n007 | 1222 | 06", "kiln | cone\n007 | 06"
        ),
    ),
)


def bind(statement: Statement, schema: Schema) -> ColumnChoice:
    dropped = set(choose(statement, schema, DECLARATION.usage, types=None).indices)
    indices = tuple(index for index in range(len(schema.columns)) if index not in dropped)
    return ColumnChoice(schema.pick(indices, statement.line), indices)
