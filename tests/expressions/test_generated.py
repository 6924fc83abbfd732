"""Whatever expression is written: it is refused when it is bound, or it gives a value or a failure for every row."""

from __future__ import annotations

from datetime import date, datetime, time
from decimal import Decimal
from typing import Any

import numpy as np
import pyarrow as pa
from hypothesis import given, settings
from hypothesis import strategies as st

from mangler.expressions.bind import bind_expression
from mangler.expressions.registry import FUNCTIONS
from mangler.expressions.scope import Surroundings
from mangler.expressions.value import Frame
from mangler.language.cursor import Cursor
from mangler.language.expression_reader import read_expression
from mangler.language.mistake import Refusal
from mangler.language.source import Source
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.types import ARROW

CELLS: dict[str, list[Any]] = {
    "text": ["a;b", "", None, " 007 ", "2026-05-04", "é\n"],
    "integer": [0, -1, None, 2**63 - 1, -(2**63), 7],
    "float": [0.0, -1.5, None, 1e308, 1e-300, 2.0],
    "decimal": [Decimal("0"), Decimal("-1.5"), None, Decimal("1e28"), Decimal("1e-9"), Decimal("2")],
    "boolean": [True, False, None, True, False, None],
    "date": [
        date(2026, 5, 4),
        date(1, 1, 1),
        None,
        date(9999, 12, 31),
        date(1969, 12, 31),
        date(2024, 2, 29),
    ],
    "time": [time(0, 0), time(23, 59, 59, 999999), None, time(9, 30), time(1), time(2)],
    "timestamp": [
        datetime(2026, 5, 4, 9, 30),
        datetime(1, 1, 1),
        None,
        datetime(1969, 12, 31, 23),
        datetime(9999, 12, 31),
        datetime(2000, 1, 1),
    ],
}
SCHEMA = Schema(tuple(Column(f"c_{kind}", ValueType(kind)) for kind in CELLS))
ARRAYS = {f"c_{kind}": pa.array(cells, ARROW[ValueType(kind)]) for kind, cells in CELLS.items()}

leaves = st.sampled_from(
    [*ARRAYS, "'x'", "';'", '""', "0", "-1", "3", "0.5", "true", "null", "/b+/", "'%Y'", "split(c_text, ';')"]
)


def grown(inner: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    two = st.tuples(inner, inner)
    operators = st.sampled_from([*"+-*/%=<", "!=", ">=", "and", "or", "contains", "starts with"])
    kinds = st.sampled_from(["null", "blank", *CELLS])
    return st.one_of(
        st.tuples(operators, two).map(lambda m: f"({m[1][0]} {m[0]} {m[1][1]})"),
        st.tuples(inner, kinds).map(lambda m: f"({m[0]} is {m[1]})"),
        inner.map(lambda one: f"(not {one})"),
        inner.map(lambda one: f"(- {one})"),
        st.tuples(inner, inner, inner).map(lambda m: f"(if {m[0]} then {m[1]} else {m[2]})"),
        st.tuples(inner, inner, inner).map(lambda m: f"({m[0]} between {m[1]} and {m[2]})"),
        two.map(lambda m: f"({m[0]} in ({m[1]}, 'x'))"),
        st.tuples(st.sampled_from(list(FUNCTIONS)), st.lists(inner, max_size=3)).map(
            lambda m: f"{m[0]}({', '.join(m[1])})"
        ),
        st.tuples(st.sampled_from(list(FUNCTIONS)), inner).map(lambda m: f"{m[0]}({m[1]})"),
    )


@settings(max_examples=500)
@given(st.recursive(leaves, grown, max_leaves=6))
def test_an_expression_is_refused_or_gives_values_of_its_type(text: str) -> None:
    try:
        tree = read_expression(Cursor(Source("expression", text), 0, len(text)))
        bound = bind_expression(tree, Surroundings(SCHEMA))
    except Refusal:
        return
    frame = Frame(ARRAYS, np.arange(1, 7))
    value = bound.evaluate(frame)
    out = value.settled(6)
    out.validate(full=True)
    assert len(out) == 6
    assert bound.kind is None or out.type == ARROW[bound.kind], (out.type, bound.kind)
    for row in range(6):  # each row's value is its own
        one = Frame({name: array.slice(row, 1) for name, array in ARRAYS.items()}, np.array([row + 1]))
        alone = bound.evaluate(one).settled(1)
        assert str(alone[0].as_py()) == str(out[row].as_py())
