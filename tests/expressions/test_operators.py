from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.expressions.evaluating import bound, evaluate

from mangler.language.mistake import Refusal


@pytest.mark.parametrize(
    ("text", "columns", "values"),
    [
        ("a = 'x'", {"a": ["x", "y", None, ""]}, [True, False, None, False]),
        ("a != b", {"a": [1, 2, None], "b": [1, 3, 1]}, [False, True, None]),
        ("a < 1.5", {"a": [1, 2, None]}, [True, False, None]),
        ("a >= date('2026-05-04')", {"a": [date(2026, 5, 4), date(2026, 5, 3)]}, [True, False]),
        ("a between 2 and 3", {"a": [1, 2, 3, 4, None]}, [False, True, True, False, None]),
        ("a not between 2 and 3", {"a": [1, 2]}, [True, False]),
        ("a in ('x', 'y')", {"a": ["x", "z", None]}, [True, False, None]),
        ("a in (1, 2.5)", {"a": [1, 2, None]}, [True, False, None]),
        ("a not in ('x')", {"a": ["x", "z", None]}, [False, True, None]),
        ("a is null", {"a": ["", None, " "]}, [False, True, False]),
        ("a is blank", {"a": ["", None, " \u00a0", "x"]}, [True, True, True, False]),
        ("a is not blank", {"a": ["", "x"]}, [False, True]),
        (
            "a is integer",
            {"a": ["007", " 7 ", "7.5", "x", "", None]},
            [True, True, False, False, False, False],
        ),
        ("a is date", {"a": ["2026-05-04", "2026-02-30", "04/05/2026"]}, [True, False, False]),
        ("a is decimal", {"a": ["1.5", "1,5", "1e5"]}, [True, False, False]),
        ("a is integer", {"a": [1.0, 1.5, None]}, [True, False, False]),
        ("a matches /^[A-Z]/", {"a": ["Xy", "xy", None]}, [True, False, None]),
        ("a contains 'b'", {"a": ["abc", "x", None]}, [True, False, None]),
        (
            "a contains b",
            {"a": ["abc", "x", "x", None], "b": ["b", "b", None, "x"]},
            [True, False, None, None],
        ),
        ("a starts with 'ab' and not (a ends with 'c')", {"a": ["abc", "abd"]}, [False, True]),
        (
            "a and b",
            {"a": [True, False, None, None], "b": [None, None, False, True]},
            [None, False, False, None],
        ),
        (
            "a or b",
            {"a": [True, False, None, None], "b": [None, None, True, False]},
            [True, None, True, None],
        ),
        ("not a", {"a": [True, None]}, [False, None]),
        ("if a then 'x' else 'y'", {"a": [True, False, None]}, ["x", "y", "y"]),
        ("if a then 1 else null", {"a": [True, False]}, [1, None]),
        ("if a then 1 else 0.5", {"a": [True, False]}, [Decimal(1), Decimal("0.5")]),
        ("'{a}-{b}'", {"a": ["x", None], "b": [1, 2]}, ["x-1", None]),
        ('"{a}-{b?}."', {"a": ["x", "y"], "b": ["", None]}, ["x-.", "y-."]),
        ('"{n} {d} {t}"', {"n": [1.50], "d": [date(2026, 5, 4)], "t": [True]}, ["1.5 2026-05-04 true"]),
        ("null = 1 or true", {"a": ["x"]}, [True]),
        ("a = null or a = 'x'", {"a": ["x"]}, None),
    ],
)
def test_values(text: str, columns: dict[str, list[Any]], values: list[Any] | None) -> None:
    if "'{" in text:
        text = text.replace("'", '"')
    if values is None:
        with pytest.raises(Refusal, match="equals nothing"):
            evaluate(text, **columns)
    elif text.startswith("null"):
        with pytest.raises(Refusal):
            evaluate(text, **columns)
    else:
        assert evaluate(text, **columns) == values


def test_a_branch_that_is_not_taken_never_fails() -> None:
    columns: dict[str, list[Any]] = {"a": [0, 2, None]}
    assert evaluate("if a = 0 then 0 else 4 % a", **columns) == [0, 0, None]
    assert evaluate("a != 0 and 4 % a = 0", **columns) == [False, True, None]
    assert evaluate("a = 0 or 4 % a = 0", **columns) == [True, True, None]
    assert evaluate("coalesce(a, 1 % 0)", **columns) == [0, 2, "<division by zero>"]
    assert evaluate("4 % a = 0 or a = 0", **columns)[0] == "<division by zero>"


@pytest.mark.parametrize(
    ("text", "types", "message", "advice"),
    [
        ("a + 'x'", {"a": "text"}, r"\+ adds numbers, and a is text", '"{a}x"'),
        ("a + 1", {"a": "text"}, r"\+ adds numbers, and a is text", "integer\\(a\\)"),
        ("a * 2", {"a": "text"}, "works on numbers, and a is text", "integer\\(a\\)"),
        ("a - b", {"a": "date", "b": "date"}, "a is date", "days_between"),
        ("a + 7", {"a": "date"}, "a is date", "add_days"),
        ("a = 1", {"a": "text"}, "= needs values of one type", "integer\\(a\\)"),
        ("a > '2026-05-04'", {"a": "date"}, "of one type", "date\\('2026-05-04'\\)"),
        ("not a", {"a": "text"}, "works on conditions, and a is text", "a is not null"),
        ("if a then 1 else 2", {"a": "text"}, "a condition is needed here, and a is text", "not null"),
        ("if b then 1 else 'x'", {"b": "boolean"}, "of one type", "Convert"),
        ("a < b", {"a": "boolean", "b": "boolean"}, "cannot order", "!="),
        ("a in ('x', null)", {"a": "text"}, "null is in no list", "is null"),
        ("a matches /x/", {"a": "integer"}, "a is integer", "text\\(a\\)"),
        ("length(a)", {"a": "integer"}, "length\\(text\\) works on text", "text\\(a\\)"),
        ("a = nowhere", {"a": "text"}, 'no column "nowhere"', "Columns: a"),
        ("lenght(a)", {"a": "text"}, 'no function "lenght"', "Nearest: length"),
        ("left(a)", {"a": "text"}, "left has 1 argument", "left\\(text, count\\)"),
        ("sum(a)", {"a": "integer"}, "brings rows together", "group"),
        ("/x/", {}, "a pattern is not a value", "matches"),
        ("upper(/x/)", {}, "takes no pattern", "upper\\(text\\)"),
        ("past(a, /x*/)", {"a": "text"}, "matches the empty text", "at least one"),
        ("split(a, ';') = split(a, ';')", {"a": "text"}, "lists are not compared", "joined"),
        ("\"{split(a, ',')}\"", {"a": "text"}, "a hole works on text", "joined"),
        ("1 % 0.5", {}, "whole numbers", ""),
        ("99999999999999999999", {}, "more than 64 bits", "exactly"),
        ("0.12345678901", {}, "more than 9 places", "exactly"),
        ('format_date(d, "%Q")', {"d": "date"}, '"%Q" is not a part', "%Y"),
        ("round(n, n)", {"n": "integer"}, "written here", "round\\(x, 1\\)"),
        ("date(split('a', ','))", {}, "no way to date", "joined"),
    ],
)
def test_types_are_refused_before_any_row(
    text: str, types: dict[str, str], message: str, advice: str
) -> None:
    with pytest.raises(Refusal, match=message) as refused:
        bound(text, **types)
    assert advice == "" or __import__("re").search(advice, refused.value.mistakes[0].advice)
    assert refused.value.mistakes[0].span is not None


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("a + 1", [2**63 - 1]),
        ("a - 2", [-(2**63) + 1]),
        ("a * 2", [2**62]),
        ("a * -1", [-(2**63)]),
        ("-a", [-(2**63)]),
    ],
)
def test_whole_numbers_that_run_over_fail(text: str, values: list[int]) -> None:
    assert evaluate(text, a=[1, *values, None])[1:] == ["<the result has more than 64 bits>", None]
    assert isinstance(evaluate(text, a=[1, *values])[0], int)


def test_decimals_are_exact_or_fail() -> None:
    assert evaluate("a + 0.2", a=[Decimal("0.1")]) == [Decimal("0.3")]
    assert evaluate("a * 0.19", a=[Decimal("1.25")]) == [Decimal("0.2375")]
    assert evaluate("a * a", a=[Decimal("0.00001"), Decimal("2")]) == [
        "<the result has more than 9 places, or more than 29 digits before the point>",
        Decimal(4),
    ]
    assert evaluate("a / 0", a=[1.0, None]) == ["<division by zero>", None]
    assert evaluate("a * 1000.0 * a", a=[1e308])[0] == "<the result is too large>"
    assert evaluate("a * a", a=[1e-200, 0.0]) == ["<the result is too small for a float: it would be 0>", 0.0]
    assert evaluate("a / b", a=[1e-200, 0.0], b=[1e200, 1.0]) == [
        "<the result is too small for a float: it would be 0>",
        0.0,
    ]
    assert evaluate("7 / 2", a=[1]) == [3.5]


WHOLE = st.integers(-(2**63), 2**63 - 1)


@given(st.lists(st.tuples(st.none() | WHOLE, st.none() | WHOLE), min_size=1, max_size=8))
def test_arithmetic_is_that_of_python(pairs: list[tuple[int | None, int | None]]) -> None:
    a, b = [pair[0] for pair in pairs] + [1], [pair[1] for pair in pairs] + [1]
    for operator in "+-*%":
        expected: list[Any] = []
        for one, other in zip(a, b, strict=True):
            if one is None or other is None:
                expected.append(None)
            elif operator == "%" and other == 0:
                expected.append("<division by zero>")
            else:
                exact = {"+": one + other, "-": one - other, "*": one * other, "%": other and one % other}[
                    operator
                ]
                expected.append(exact if -(2**63) <= exact < 2**63 else "<the result has more than 64 bits>")
        assert evaluate(f"a {operator} b", a=a, b=b) == expected


TEXTS = st.none() | st.text(st.sampled_from("ab \u00a0é;İß"), max_size=6)


@given(st.lists(st.tuples(TEXTS, TEXTS), min_size=1, max_size=8))
def test_text_tests_are_those_of_python(pairs: list[tuple[str | None, str | None]]) -> None:
    a, b = [pair[0] for pair in pairs], [pair[1] for pair in pairs]
    works = {
        "contains": lambda one, other: other in one,
        "starts with": lambda one, other: one.startswith(other),
        "ends with": lambda one, other: one.endswith(other),
        "=": lambda one, other: one == other,
        "<": lambda one, other: one < other,
    }
    for operator, work in works.items():
        expected = [None if None in pair else work(*pair) for pair in pairs]
        assert evaluate(f"a {operator} b", a=a, b=b) == expected
    holes = [None if None in pair else f"{pair[0]}/{pair[1]}" for pair in pairs]
    assert evaluate('"{a}/{b}"', a=a, b=b) == holes


def test_a_thousand_deep_is_refused() -> None:
    with pytest.raises(Refusal, match="nested more than"):
        bound("(" * 1000 + "1" + ")" * 1000)
    with pytest.raises(Refusal, match="nested more than"):
        bound("upper(" * 1000 + "'x'" + ")" * 1000)
