"""`tolerate`: how many rows may be set aside."""

from __future__ import annotations

from mangler.language.declaration import Declaration
from mangler.language.kinds import Amount
from mangler.language.statement import Statement

DECLARATION = Declaration(
    name="tolerate",
    usage="tolerate AMOUNT",
    meaning="More extract rows set aside than that, and nothing is delivered: a few rows may need a person, many say"
    " that the extract is another one. tolerate 5 rows, or tolerate 0.5% of the rows read. Without it any number"
    " may be set aside by steps, and a tenth by reading: when more rows than that do not fit the header, the extract is"
    " likely to be read in the wrong way. It is allowed once, anywhere in the recipe.",
    is_step=False,
)


def tolerated(statement: Statement | None) -> Amount | None:
    """What a recipe says; None where it says nothing."""
    return None if statement is None else statement.get("amount", Amount)
