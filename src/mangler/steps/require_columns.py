"""`require columns`: the extract must have these columns."""

from __future__ import annotations

from mangler.language.columns import NamedColumn
from mangler.language.declaration import Declaration
from mangler.language.mistake import Mistake, Refusal, enumerate_names, extract_does_not_fit
from mangler.language.statement import Statement
from mangler.steps.columnwise import ColumnChoice, choose
from mangler.table.schema import Schema
from mangler.table.select import spell

DECLARATION = Declaration(
    name="require columns",
    usage="require columns [exactly] COLUMNS",
    meaning="The table must have these columns where the statement stands; otherwise the extract is refused"
    " before any row is read. The rows pass as they are.",
    clauses={"exactly": "These columns and no others; their order does not matter."},
)


def check(statement: Statement) -> list[Mistake]:
    return [
        Mistake(
            "columns are required by their names",
            "A pattern, a family or * is there whatever the extract holds: write the names.",
            statement.place_of("columns"),
        )
        for item in statement.columns().included[:1]
        if not isinstance(item, NamedColumn)
    ]


def bind(statement: Statement, schema: Schema) -> ColumnChoice:
    try:
        chosen = choose(statement, schema, DECLARATION.usage, types=None)
    except Refusal as refusal:
        raise _together(statement, schema, refusal) from None
    if statement.has("exactly"):
        others = [spell(name) for i, name in enumerate(schema.names) if i not in chosen.indices]
        if others:
            raise extract_does_not_fit(
                f"the extract has {len(others)} more {'column' if len(others) == 1 else 'columns'} than required:"
                f" {enumerate_names(others)}",
                "Name them too, or drop exactly.",
                statement.place_of("columns"),
            )
    return ColumnChoice(schema, tuple(range(len(schema.columns))))


def _together(statement: Statement, schema: Schema, refusal: Refusal) -> Refusal:
    """Several missing columns as one mistake; a single one keeps its own words."""
    names = [name for mistake in refusal.mistakes for name in mistake.missing]
    if len(names) < 2:
        return refusal
    required = {item.name.value for item in statement.columns().included if isinstance(item, NamedColumn)}
    others = [spell(name) for name in schema.names if name not in required]
    return extract_does_not_fit(
        f"the extract lacks {len(names)} required columns: {enumerate_names([spell(n) for n in names], 8)}",
        f"It has others: {enumerate_names(others, 8)}." if others else "",
        statement.place_of("columns"),
        tuple(names),
    )
