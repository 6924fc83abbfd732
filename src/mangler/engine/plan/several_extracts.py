"""What cannot be said any more where the rows of several extracts are one table."""

from __future__ import annotations

from mangler.language.expression import Call
from mangler.language.mistake import Mistake
from mangler.language.names import parts_of
from mangler.language.statement import Statement

FILE = "extract_file"


def refuse_file_of_row(statement: Statement, first: Statement) -> list[Mistake]:
    """The mistakes of asking for a row's file behind a step that must see all rows: they are of many files by then."""
    return [
        Mistake(
            "extract-not-known",
            f"{FILE}() is not known here: from line {first.label} on the rows of all extracts are one table",
            f"Make a column of it above line {first.label}: make file = {FILE}()",
            part.span,
        )
        for part in parts_of(statement.values)
        if isinstance(part, Call) and part.function == FILE
    ]
