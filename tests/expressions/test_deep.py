"""Expressions that a program wrote: thousands of operands on one level, and some levels only."""

from __future__ import annotations

import pytest
from tests.expressions.evaluating import evaluate

from mangler.language.mistake import Refusal

pytestmark = pytest.mark.usefixtures("in_a_minute")

MANY = 6000


def test_thousands_of_operands() -> None:
    assert evaluate(" + ".join(["a"] * MANY), a=[1, 2]) == [MANY, 2 * MANY]
    assert evaluate(" - ".join(["a"] * MANY), a=[1]) == [2 - MANY]
    any_of = " or ".join(f"a = {number}" for number in range(MANY))
    assert evaluate(any_of, a=[MANY - 1, MANY, None]) == [True, False, None]
    none_of = " and ".join(f"a != {number}" for number in range(MANY))
    assert evaluate(none_of, a=[MANY - 1, MANY, None]) == [False, True, None]
    choice = "".join(f"if a = {number} then {number * 2} else " for number in range(1000))
    assert evaluate(f"{choice}-1", a=[0, 999, 1000, None]) == [0, 1998, -1, -1]
    numbers = ", ".join(map(str, range(2000)))
    assert evaluate(f"a in ({numbers})", a=[0, 1999, 2000]) == [True, True, False]


def test_an_operand_is_worked_out_from_the_left() -> None:
    assert evaluate("a - b + c * 2 - 1", a=[10], b=[3], c=[4]) == [14]
    assert evaluate("8 / a / 2 * 3", a=[2]) == [6.0]
    assert evaluate("a = 1 or 1 / (a - 2) > 0 or a = 2", a=[1, 2, 3]) == [
        True,
        "<division by zero>",
        True,
    ]


def test_only_the_arm_that_is_taken_can_fail() -> None:
    text = "if a = 0 then 0 else if 6 / a > 2 then 6 / (a - 1) else 1 / (a - 3)"
    assert evaluate(text, a=[0, 1, 2, 3, 4]) == [0.0, "<division by zero>", 6.0, "<division by zero>", 1.0]


@pytest.mark.parametrize("depth", [50, 300])
def test_holes_in_holes_are_refused_clearly(depth: int) -> None:
    text = '"x"'
    for _ in range(depth):
        text = '"{' + text + '}"'
    with pytest.raises(Refusal, match="nested more than 40 deep"):
        evaluate(text, a=[1])


def test_functions_that_take_a_mark_fail_on_the_empty_one() -> None:
    marks = ["/", "", None]
    why = "<the mark is an empty text, which is everywhere>"
    for text in ("part(a, m, 1)", "up_to(a, m)", "past(a, m)", "occurrences(a, m)", "replace(a, m, 'x')"):
        assert evaluate(text, a=["b/c"] * 3, m=marks)[1:] == [why, None], text
    assert evaluate("joined(split(a, m), '+')", a=["b/c"] * 3, m=marks) == ["b+c", why, None]
    assert evaluate("inside(a, m, 'c')", a=["b/c"] * 3, m=marks) == ["", why, None]
    assert evaluate("part(a, '', 1)", a=["b", None]) == [why, None]
