"""`drop characters`: all characters but those of some classes."""

from __future__ import annotations

from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.shared.characters import MEANING, WITH, bind_characters
from mangler.steps.shared.columnwise import ColumnwiseStep
from mangler.steps.shared.counters import CHANGES, CONDITION, EMPTIED
from mangler.table.schema import Schema

DECLARATION = Declaration(
    name="drop characters",
    usage="drop characters CLASSES in COLUMNS [with TEXT] [where CONDITION]",
    meaning=f"Drops the characters of these classes and keeps all others. {MEANING}",
    clauses={"with": WITH},
    examples=(
        Example(
            "drop characters punctuation, symbols in shelf, notes",
            "shelf | notes\nA/2/left | €5, paid!",
            "shelf | notes\nA2left | 5 paid",
        ),
        Example('drop characters "-/" in shelf with "."', "shelf\nA/2-/left", "shelf\nA.2.left"),
    ),
    counters=(*CHANGES, *EMPTIED, *CONDITION),
)


def bind(statement: Statement, schema: Schema) -> ColumnwiseStep:
    return bind_characters(statement, schema, DECLARATION.usage, keeps=False)
