from __future__ import annotations

import pytest

from mangler.language.mistake import Refusal
from mangler.language.proofs import Proof, proofs
from mangler.language.recipe import parse_recipe
from mangler.language.source import Source
from mangler.steps import VERBS

TABLES = "\n  a\n  x\n  becomes\n  a\n  x\n"


def found(text: str) -> list[Proof]:
    return list(proofs(parse_recipe(Source("r", "mangler 1\n" + text), VERBS).items, VERBS))


def said(text: str) -> list[str]:
    with pytest.raises(Refusal) as caught:
        found(text)
    return [mistake.message for mistake in caught.value.mistakes]


def test_a_test_proves_the_step_above_or_the_last_few() -> None:
    one, two = found(
        f"trim a\nread nulls 'x'\nrecase a upper\ntest 'both' for 2 steps{TABLES}test{TABLES}fill a with 'x'\n"
    )
    assert [step.verb for step in one.steps] == ["trim", "recase"] and one.title == "both"
    assert [step.verb for step in two.steps] == ["recase"] and two.title == ""


def test_tests_without_steps_are_misplaced() -> None:
    assert said(f"test{TABLES}") == ["no step is above this test"]
    assert said(f"trim a\ntest for 2 steps{TABLES}") == ["1 step is above this test, and it says for 2 steps"]
    assert said(f"trim a\ntest for 0 steps{TABLES}") == ["1 step is above this test, and it says for 0 steps"]


@pytest.mark.parametrize(
    "off",
    [
        "# trim a squeeze",
        "#trim a\n#  squeeze",
        "# A remark on it.\n# replace 'a' with 'b',\n#   'c' with 'd' in a",
        "# trim a\n\n# A remark below.",
        f"# trim a\ntest{TABLES}",
    ],
)
def test_a_test_is_off_with_its_step(off: str) -> None:
    proof = found(f"recase a upper\n{off}\ntest{TABLES}")[-1]
    assert proof.switched_off in (3, 4)


@pytest.mark.parametrize("remark", ["# Blanks at both ends.", "# trim what is left", "# read nulls 'x'"])
def test_a_remark_switches_nothing_off(remark: str) -> None:
    assert found(f"trim a\n{remark}\ntest{TABLES}")[0].switched_off == 0


@pytest.mark.parametrize(
    ("body", "message"),
    [
        ("", "this test has no line becomes"),
        ("\n  a\n  becomes", "this test has no table below becomes"),
        ("\n  becomes\n  a", "this test has no table above becomes"),
        ("\n  a\n  becomes\n  a\n  becomes", "becomes is there twice in this test"),
        ("\n  a | b\n  x\n  becomes\n  a", "this row has 1 cells, and the head has 2"),
        ("\n  a | a\n  becomes\n  a", 'the table has "a" twice'),
        ("\n  a maybe\n  becomes\n  a", '"maybe" is not a type of values'),
        ("\n  a\n  becomes\n  a, b", '| is expected here, found ","'),
        (" for 2\n  a\n  becomes\n  a", "the statement ends where steps is expected"),
    ],
)
def test_what_is_no_test(body: str, message: str) -> None:
    assert said(f"trim a\ntest{body}\n") == [message]
