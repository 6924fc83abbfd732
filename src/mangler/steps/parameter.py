"""`parameter`: a value that can be set from outside."""

from __future__ import annotations

from mangler.language.declaration import Declaration

DECLARATION = Declaration(
    name="parameter",
    usage="parameter NAME (= VALUE|from environment TEXT)",
    meaning="A value with a name, which expressions use like a column, and which `--set NAME=VALUE` sets from outside"
    " for one run. A value from outside is of the type that the recipe's own value has; of null it is a text. Columns"
    " of the same name cannot be distinguished from it, and are refused. With from environment the value is a secret:"
    " it comes from a variable of the environment, and no summary, message, history or report shows it. It can only be"
    " the key of keyed_hash.",
    clauses={
        "from environment": 'The variable that holds the secret: parameter salt from environment "KILN_SALT".'
    },
    is_step=False,
)
