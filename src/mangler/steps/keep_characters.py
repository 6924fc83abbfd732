"""`keep characters`: only characters of some classes."""

from __future__ import annotations

from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.shared.characters import MEANING, WITH, bind_characters
from mangler.steps.shared.columnwise import ColumnwiseStep
from mangler.steps.shared.counters import CHANGES, CONDITION, EMPTIED
from mangler.table.schema import Schema

DECLARATION = Declaration(
    name="keep characters",
    usage="keep characters CLASSES in COLUMNS [with TEXT] [where CONDITION]",
    meaning=f"Keeps the characters of these classes and drops all others. {MEANING}",
    clauses={"with": WITH},
    examples=(
        Example('keep characters digits, "." in peak_c', "peak_c\n1222 °C\nca. 998", "peak_c\n1222\n.998"),
        Example(
            'keep characters letters, spaces in potter with " "',
            "potter\nTove_K.Aslan\nZoë Ó-Briain",
            "potter\nTove K Aslan\nZoë Ó Briain",
        ),
    ),
    counters=(*CHANGES, *EMPTIED, *CONDITION),
)


def bind(statement: Statement, schema: Schema) -> ColumnwiseStep:
    return bind_characters(statement, schema, DECLARATION.usage, keeps=True)
