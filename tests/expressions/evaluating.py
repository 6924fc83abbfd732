"""Evaluates an expression over columns given as lists of texts or typed values."""

from __future__ import annotations

from typing import Any

import numpy as np
import pyarrow as pa

from mangler.expressions.bind import bind_expression
from mangler.expressions.scope import Surroundings
from mangler.expressions.value import Bound, Frame
from mangler.language.cursor import Cursor
from mangler.language.expression_reader import read_expression
from mangler.language.source import Source
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.types import ARROW

TYPES = {
    kind: ValueType(kind) for kind in ("text", "integer", "float", "decimal", "boolean", "date", "timestamp")
}


def bound(text: str, **types: str) -> Bound:
    """The expression on columns of these types; text where a name is alone."""
    cursor = Cursor(Source("expression", text), 0, len(text))
    tree = read_expression(cursor)
    assert cursor.at_end(), f"not read to its end: {text}"
    schema = Schema(tuple(Column(name, ValueType(kind)) for name, kind in types.items()))
    return bind_expression(tree, Surroundings(schema))


def evaluate(text: str, **columns: list[Any]) -> list[Any]:
    """The values, a failing row as the text of its reason in angle brackets."""
    kinds = {name: kind_of(values) for name, values in columns.items()}
    count = max((len(values) for values in columns.values()), default=1)
    arrays = {name: pa.array(values, ARROW[ValueType(kinds[name])]) for name, values in columns.items()}
    # A slice with something before and after it: whoever forgets an offset is detected.
    padded = {
        name: pa.concat_arrays([array.slice(0, 1), array, array.slice(0, 1)])
        for name, array in arrays.items()
    }
    sliced = {name: array.slice(min(1, count), count) for name, array in padded.items()}
    value = bound(text, **kinds).evaluate(Frame(sliced, np.arange(1, count + 1), "a.csv"))
    out = value.settled(count).to_pylist()
    for failure in value.failures:
        for index in np.flatnonzero(failure.flags).tolist():
            assert out[index] is None or str(out[index]).startswith("<"), "a value beside a failure"
            out[index] = f"<{failure.why(index)}>"
    return out


def kind_of(values: list[Any]) -> str:
    import datetime
    from decimal import Decimal

    for value in values:
        for kind, name in (
            (bool, "boolean"),
            (int, "integer"),
            (float, "float"),
            (Decimal, "decimal"),
            (datetime.datetime, "timestamp"),
            (datetime.date, "date"),
            (str, "text"),
        ):
            if isinstance(value, kind):
                return name
    return "text"
