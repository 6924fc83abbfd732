"""`parameter`: a value that can be set from outside."""

from __future__ import annotations

from mangler.language.declaration import Declaration

DECLARATION = Declaration(
    name="parameter",
    usage="parameter NAME = VALUE",
    meaning="A value with a name, which expressions use like a column, and which `--set NAME=VALUE` sets from outside"
    " for one run. A value from outside is of the type that the recipe's own value has; of null it is a text. Columns"
    " of the same name cannot be told apart from it, and are refused.",
    is_step=False,
)
