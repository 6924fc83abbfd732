"""`define`: a function of the recipe's own."""

from __future__ import annotations

from mangler.language.declaration import Declaration

DECLARATION = Declaration(
    name="define",
    usage="define SIGNATURE = EXPR",
    meaning="A function of the recipe's own, such as `define tidy(x) = upper(trim(x))`, for all expressions of the"
    " file, wherever it is. It sees only its parameters and other functions, and may not take the name of one"
    " that the language has. A function cannot need itself.",
    is_step=False,
)
