from __future__ import annotations

import pytest

from mangler.language.cursor import Cursor
from mangler.language.expression import Call, Chain, Column, Operation
from mangler.language.expression_reader import read_expression
from mangler.language.mistake import Refusal
from mangler.language.source import Source


def read(text: str):  # type: ignore[no-untyped-def]
    cursor = Cursor(Source("recipe", text), 0, len(text))
    expression = read_expression(cursor)
    assert cursor.at_end(), f"left unread: {text[cursor.offset :]}"
    return expression


def shape(expression) -> object:  # type: ignore[no-untyped-def]
    """Operators and operands as nested tuples, to be compared at a glance."""
    if isinstance(expression, Operation):
        return (expression.operator, *map(shape, expression.operands))
    if isinstance(expression, Chain):
        so_far = shape(expression.first)
        for operator, operand in expression.links:
            so_far = (operator, so_far, shape(operand))
        return so_far
    if isinstance(expression, Column):
        return expression.name
    if isinstance(expression, Call):
        return (f"{expression.function}()", *map(shape, expression.arguments))
    return getattr(expression, "value", type(expression).__name__)


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("a or b and c", ("or", "a", ("and", "b", "c"))),
        ("not a = b and c", ("and", ("not", ("=", "a", "b")), "c")),
        ("a - b - c", ("-", ("-", "a", "b"), "c")),
        ("a + b * c % d", ("+", "a", ("%", ("*", "b", "c"), "d"))),
        ("-a * b", ("*", ("-", "a"), "b")),
        ("a - -3", ("-", "a", -3)),
        ("(a or b) and c", ("and", ("or", "a", "b"), "c")),
        ("upper(trim(x))", ("upper()", ("trim()", "x"))),
        ("house.tidy(tag)", ("house.tidy()", "tag")),
        ("a not contains 'x'", ("not", ("contains", "a", "x"))),
        ("a starts with 'x'", ("starts with", "a", "x")),
        ("[if] = 1", ("=", "if", 1)),
        ("and and and", ("and", "and", "and")),
        ("between = in", ("=", "between", "in")),
    ],
)
def test_precedence_and_unreserved_words(text: str, expected: object) -> None:
    assert shape(read(text)) == expected


@pytest.mark.parametrize(
    ("text", "message", "advice"),
    [
        ("a == b", "==", "one ="),
        ("a <> b", "<>", "!="),
        ("a && b", "&&", "and"),
        ("a || b", r"\|\|", "or"),
        ("!a", "!", "not"),
        ("a like 'x'", "like", "contains"),
        ("a = null", "null", "is null"),
        ("a != null", "null", "is not null"),
        ("a < b < c", "chain", "between"),
        ("(a", r"\) is expected", "needs its"),
        ("if a then b", "else is expected", "else"),
        ("a is good", "kind of value", "="),
        ("a matches 'x'", "pattern is expected", "contains"),
        ("a +", "a value is expected", "Values"),
        ("x in ()", "a value", "in"),
        ("true and not", "value is expected", "Values"),
    ],
)
def test_mistakes_and_habits(text: str, message: str, advice: str) -> None:
    with pytest.raises(Refusal, match=message) as refused:
        read(text)
    assert advice in refused.value.mistakes[0].advice


def test_in_compares_only_before_a_bracket() -> None:
    cursor = Cursor(Source("r", "a in glazes"), 0, 11)
    assert shape(read_expression(cursor)) == "a"
    assert cursor.peek_word() == "in"


@pytest.mark.parametrize("text", ["(" * 1000 + "a" + ")" * 1000, "not " * 1000 + "a", "-(" * 1000])
def test_a_thousand_nested_are_refused_clearly(text: str) -> None:
    with pytest.raises(Refusal, match="nested more than"):
        read(text)


def test_distinct_is_reserved_only_after_an_aggregates_bracket() -> None:
    call = read('join(distinct a, ", " sorted by b descending)')
    assert call.distinct and call.descending and shape(call.sorted_by) == "b"
    assert shape(read("upper(distinct)")) == ("upper()", "distinct")
