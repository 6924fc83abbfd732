"""`keep rows`: the rows that meet a condition."""

from __future__ import annotations

from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.shared.counters import CONDITION, FAILED, TESTS_MISSED
from mangler.steps.shared.row_choice import FAILURES, RowChoice, bind_choice
from mangler.table.schema import Schema

DECLARATION = Declaration(
    name="keep rows",
    usage="keep rows where CONDITION [failures (stop|aside|null)]",
    meaning="Keeps the rows that meet a condition and drops all others, also those for which it is null; the summary"
    " counts these apart.",
    clauses={"failures": FAILURES},
    examples=(
        Example(
            'keep rows where result != "cracked"',
            "kiln | result\n007 | good\n012 | cracked\n031 | null",
            "kiln | result\n007 | good",
        ),
        Example(
            "keep rows where peak_c is integer and kiln in ('007', '012')",
            "kiln | peak_c\n007 | 1222\n012 | tbc\n031 | 998",
            "kiln | peak_c\n007 | 1222",
        ),
    ),
    counters=(*CONDITION, *FAILED, *TESTS_MISSED),
)


def bind(statement: Statement, schema: Schema) -> RowChoice:
    return bind_choice(statement, schema, DECLARATION.usage, drops=False)
