"""Values written in a recipe, and the types of columns that they fit."""

from __future__ import annotations

from mangler.language.literals import Number, Text, Truth
from mangler.language.mistake import wrong_recipe
from mangler.table.schema import ValueType

WIDENED = {
    (ValueType.INTEGER, ValueType.DECIMAL),
    (ValueType.INTEGER, ValueType.FLOAT),
    (ValueType.DECIMAL, ValueType.FLOAT),
}
"""Types of which every value has a place in the other."""


def fit_literal(literal: Text | Number | Truth, kind: ValueType) -> None:
    """Refuses a literal of another type than the column's, but for a number that the type has a place for."""
    own = literal_kind(literal)
    if own is not kind and (own, kind) not in WIDENED:
        raise wrong_recipe(
            f"{literal.place.text} is {own}, and the column is {kind}",
            "Give a value of the column's type, or null.",
            literal.place,
        )


def literal_kind(literal: Text | Number | Truth) -> ValueType:
    if isinstance(literal, Text):
        return ValueType.TEXT
    if isinstance(literal, Truth):
        return ValueType.BOOLEAN
    return ValueType.INTEGER if isinstance(literal.value, int) else ValueType.DECIMAL
