"""What is accepted and surely not meant, seen from the recipe and the columns alone."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from mangler.language.expression import Column
from mangler.language.literals import Text
from mangler.language.names import parts_of
from mangler.language.placeholders import names_in
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement
from mangler.table.schema import Names, Schema
from mangler.table.select import quote_name

OF_EXPRESSIONS = frozenset(
    {"make", "change", "keep rows", "drop rows", "set aside rows", "require that", "require overall"}
)
"""Verbs whose texts are values in an expression. In others a text is what is looked for, or put in."""
OF_CHARACTERS = frozenset({"keep characters", "drop characters"})
HOLE = re.compile(r"\{([^{}]+)\}")
RANGE = re.compile(r"(?:[a-z]-[a-z]|[A-Z]-[A-Z]|[0-9]-[0-9])")


def oversights(statement: Statement, schema: Schema) -> tuple[str, ...]:
    """Remarks on a statement to which columns like these come."""
    names = schema.names  # finds a name without a search
    is_expression = statement.verb in OF_EXPRESSIONS
    found = [
        *_texts_like_columns(statement.values if is_expression else statement.values.get("where"), names)
    ]
    if is_expression or statement.verb == "fill":
        found += _holes_in_raw_texts(statement, names)
    if statement.verb in OF_CHARACTERS:
        found += _ranges(statement)
    return tuple(dict.fromkeys(found))


def _texts(values: Any) -> Iterator[Text]:
    return (part for part in parts_of(values) if isinstance(part, Text))


def _holes_in_raw_texts(statement: Statement, names: Names) -> Iterator[str]:
    for text in _texts(statement.values):
        spelled = text.span.text
        if spelled.startswith("'") and any(name in names for name in HOLE.findall(text.value)):
            yield f'{spelled} is as it stands: in single quotes braces are no holes; write "{text.value}"'


def _texts_like_columns(values: Any, names: Names) -> Iterator[str]:
    for text in _texts(values):
        if text.value in names:
            yield f"{text.span.text} is a text; the column is written without quotes: {quote_name(text.value)}"


def _ranges(statement: Statement) -> Iterator[str]:
    for text in _texts(statement.values):
        for written in RANGE.findall(text.value):
            yield (
                f'"{written}" is three characters: {written[0]}, - and {written[2]}; for a range take a class,'
                " such as letters or digits"
            )


def unused_parameters(recipe: ParsedRecipe) -> list[str]:
    """Remarks on parameters that nothing uses."""
    own = [one for one in recipe.statements if one.verb == "parameter"]
    if not own:
        return []
    used = {
        part.name for one in recipe.statements for part in parts_of(one.values) if isinstance(part, Column)
    }
    read = recipe.only("read")
    if read is not None and read.has("query from"):  # any of them may be in the query
        return []
    query = read.text("query") if read is not None else None
    used |= set(names_in(query.value)) if query is not None else set()
    names = [(one, str(one.values["name"].value)) for one in own]
    return [f"the parameter {name} (line {one.label}) is not used" for one, name in names if name not in used]
