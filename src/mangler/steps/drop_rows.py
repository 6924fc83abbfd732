"""`drop rows`: all rows except the ones that meet a condition."""

from __future__ import annotations

from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.shared.counters import CONDITION, FAILED, TESTS_MISSED
from mangler.steps.shared.row_choice import FAILURES, RowChoice, bind_choice
from mangler.table.schema import Schema

DECLARATION = Declaration(
    name="drop rows",
    usage="drop rows where CONDITION [failures (stop|aside|null)]",
    meaning="Drops the rows that meet a condition. Those for which it is null stay; the summary counts them.",
    clauses={"failures": FAILURES},
    examples=(
        Example(
            "drop rows where pieces is blank",
            'kiln | pieces\n007 | bowl=4\n012 | "  "\n031 | null',
            "kiln | pieces\n007 | bowl=4",
        ),
        Example(
            'drop rows where notes starts with "test"',
            "kiln | notes\n007 | test firing\n012 | null",
            "kiln | notes\n012 | null",
        ),
    ),
    counters=(*CONDITION, *FAILED, *TESTS_MISSED),
)


def bind(statement: Statement, schema: Schema) -> RowChoice:
    return bind_choice(statement, schema, DECLARATION.usage, drops=True)
