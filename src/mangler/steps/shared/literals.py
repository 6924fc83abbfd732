"""Values written in a recipe, and the types of columns that they fit."""

from __future__ import annotations

from typing import Any

import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
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
    """Refuses a literal of another type than the column's, except for a number that the type has a place for."""
    own = literal_kind(literal)
    if own is not kind and (own, kind) not in WIDENED:
        raise wrong_recipe(
            "wrong-type",
            f"{literal.span.text} is {own}, and the column is {kind}",
            "Give a value of the column's type, or null.",
            literal.span,
        )


def literal_kind(literal: Text | Number | Truth) -> ValueType:
    if isinstance(literal, Text):
        return ValueType.TEXT
    if isinstance(literal, Truth):
        return ValueType.BOOLEAN
    return ValueType.INTEGER if isinstance(literal.value, int) else ValueType.DECIMAL


def scalar_of(literal: Text | Number | Truth, kind: Any) -> ColumnArray:
    """A literal as a value of a column's Arrow type; one with more places than the column has is refused."""
    if pa.types.is_floating(kind) and isinstance(literal, Number):
        return pa.scalar(float(literal.value), kind)
    try:
        return pa.scalar(literal.value, kind)
    except pa.ArrowInvalid:
        raise wrong_recipe(
            "too-many-decimal-places",
            f"{literal.span.text} does not fit in a column of {kind.scale} places",
            "Write fewer places, or give the column more.",
            literal.span,
        ) from None
