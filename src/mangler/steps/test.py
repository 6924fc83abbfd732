"""`test`: what a step makes of a small table, written under it. Run by `mangler test`, not by a run."""

from __future__ import annotations

from mangler.language.declaration import Declaration
from mangler.language.mistake import Mistake
from mangler.language.statement import Statement
from mangler.language.tables import SmallTable

DECLARATION = Declaration(
    name="test",
    usage="test [TEXT] [for NUMBER steps]\n  TABLE\n  becomes\n  TABLE",
    meaning="Proves the step above it: what the first table becomes is the second. `mangler test` runs all tests"
    " of a recipe; a run passes them over. The text is the test's title. Only the columns shown are given to the"
    " step, and only those shown after it are compared with what came out, in their order.\n\n"
    "Cells are separated by `|` and taken without the blanks around them. A cell that starts with a quote is a"
    ' text with escapes, so `" 007"` keeps its blank; an empty cell or `null` is null, `""` is empty. A `#` in a'
    " table is no comment. A head may state a type, `made integer`: then the column is given so, or proved so. A"
    ' line `aside "reason"` in the second table means a row set aside. A test under a step that is switched off'
    " is off with it.",
    clauses={"for": "Proves the last so many steps above, one after the other, instead of one."},
    is_step=False,
)


def check(statement: Statement) -> list[Mistake]:
    """Cells of a typed column are of its type; no list can be given."""
    from mangler.table.small import problem_of

    mistakes = []
    for key in ("given", "becomes"):
        table = statement.get(key, SmallTable)
        for index, head in enumerate(table.heads if table else ()):
            problem = problem_of(table, index) if table else ""
            if problem:
                mistakes.append(
                    Mistake(
                        "wrong-cell", problem, "Write a cell of that type, or leave the type out.", head.span
                    )
                )
    return mistakes
