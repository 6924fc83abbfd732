"""Places and amounts: what counts nothing fails, in the recipe before the run, in a column row by row."""

from __future__ import annotations

import pytest
from tests.expressions.evaluating import bound, evaluate

from mangler.language.mistake import Refusal

NO_PLACE = "<the place is 0, and places count from 1>"
TOO_FEW = "<the number is below 0, and an amount is not>"
PLACES = [
    "characters(a, n, 3)",
    "characters(a, 1, n)",
    "part(a, 'b', n)",
    "up_to(a, 'b', n)",
    "past(a, 'b', n)",
]
AMOUNTS = ["left(a, n)", "right(a, n)", "repeat(a, n)", "pad_left(a, n)", "pad_right(a, n, '.')"]


@pytest.mark.parametrize("text", [*PLACES, "item(split(a, 'b'), n)"])
def test_a_row_with_place_0_fails_and_others_do_not(text: str) -> None:
    values = evaluate(f"{text} is null", a=["abc", "abc", None, "abc"], n=[1, 0, 0, -1])
    assert values == [False, NO_PLACE, True, False]


@pytest.mark.parametrize("text", AMOUNTS)
def test_a_row_with_an_amount_below_0_fails_and_0_does_not(text: str) -> None:
    values = evaluate(f"{text} is null", a=["abc", "abc", None, "abc"], n=[0, -1, -1, 2])
    assert values == [False, TOO_FEW, True, False]


@pytest.mark.parametrize(
    ("text", "says"),
    [(text.replace("n", "0"), "takes no place 0") for text in PLACES]
    + [(text.replace("n", "-2"), "takes no number below 0") for text in AMOUNTS if text.count("n") == 1]
    + [("item(split(a, 'b'), 0)", "takes no place 0")],
)
def test_in_the_recipe_it_is_refused_before_the_run(text: str, says: str) -> None:
    with pytest.raises(Refusal) as caught:
        bound(text, a="text")
    (mistake,) = caught.value.mistakes
    assert says in mistake.message
    assert mistake.span is not None and mistake.span.text in ("0", "-2")
