from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.mistake import ExitCode, Refusal

HOUSE = 'mangler 1\ndefine tidy(x) = upper(trim(x))\ndefine both(x, y) = "{tidy(x)}/{tidy(y)}"\ntrim *\n'
COMMON = """mangler 1
parameter word = "-"
define own(x, y) = nullif(x, y)
make a = own(a, word)
test
  a
  -
  becomes
  a
  null
"""


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "lib").mkdir()
    (tmp_path / "lib" / "house.mangler").write_text(HOUSE)
    (tmp_path / "lib" / "common.mangler").write_text(COMMON)
    (tmp_path / "a.csv").write_text("a,b\n x ,y\n-,z\n")
    return tmp_path


def cleaned(work: Path, text: str, **parameters: str) -> list[dict[str, object]]:
    path = work / "r.mangler"
    path.write_text("mangler 1\n" + text)
    return list(LinkedRecipe.load(path, parameters).run(work / "a.csv").table.to_pylist())


def said(work: Path, text: str, **parameters: str) -> Refusal:
    with pytest.raises(Refusal) as caught:
        cleaned(work, text, **parameters)
    return caught.value


def test_functions_of_the_recipe_and_of_the_house(work: Path) -> None:
    text = """make c = house.both(a, b), d = mine(a)
import "lib/house.mangler" as house
define mine(x) = "<{house.tidy(x)}>"
"""
    assert cleaned(work, text)[0] == {"a": " x ", "b": "y", "c": "X/Y", "d": "<X>"}


def test_included_steps_are_in_its_place_with_their_own_names(work: Path) -> None:
    rows = cleaned(work, 'trim a\ninclude "lib/common.mangler"\nmake n = a is null')
    assert [row["n"] for row in rows] == [False, True]
    assert [row["a"] for row in cleaned(work, 'trim a\ninclude "lib/common.mangler"', word="x")] == [
        None,
        "-",
    ]
    recipe = LinkedRecipe.load(work / "r.mangler")
    assert [s.label for s in recipe.parsed.statements] == [
        "1",
        "2",
        "common.mangler:2",
        "common.mangler:3",
        "common.mangler:4",
    ]


def test_parameters_from_outside_have_the_type_of_the_recipes_own(work: Path) -> None:
    text = "parameter n = 1\nparameter t = 'x'\nparameter yes = true\nmake c = n + 1, d = \"{t}{yes}\""
    assert cleaned(work, text)[0]["c"] == 2
    assert cleaned(work, text, n="41", t="007", yes="False")[0] == {
        "a": " x ",
        "b": "y",
        "c": 42,
        "d": "007false",
    }
    assert "is not a number" in str(said(work, text, n="x"))
    assert "neither true nor false" in str(said(work, text, yes="1"))
    assert "Nearest: n. " in str(said(work, text, N="1")) or "Its parameters: n, t, yes" in str(
        said(work, text, N="1")
    )


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("define upper(x) = x", "upper is a function of the language"),
        ("define sum(x) = x", "sum is a function of the language"),
        ("define f(x) = x\ndefine f(y) = y", "f is defined in line 2 already"),
        ("define f(x) = g(x)\ndefine g(x) = f(x)", "needs itself: f → g → f"),
        ("define f(x) = b\nmake c = f(a)", '"b" is not a parameter of this function'),
        ("define f(x, y) = x\nmake c = f(a)", "f takes 2 arguments, and here are 1"),
        ("define f(x, x) = x", "x is a parameter already"),
        ('import "gone.mangler" as g', "gone.mangler cannot be read"),
        ('include "r.mangler"', "in a loop: r.mangler → r.mangler"),
        ("parameter n = 1\nparameter n = 2", "the parameter n is there already"),
        ('import "lib/house.mangler" as h\nmake c = h.tidi(a)', 'no function "h.tidi"'),
    ],
)
def test_what_is_refused(work: Path, text: str, message: str) -> None:
    assert message in str(said(work, text))


def test_a_mistake_inside_shows_both_places(work: Path) -> None:
    (work / "lib" / "bad.mangler").write_text("mangler 1\ndefine f(x) = x + 1\n")
    refusal = said(work, 'import "lib/bad.mangler" as bad\nmake c = bad.f(a)')
    assert "bad.mangler, line 2, column 15: + adds numbers" in str(refusal)
    assert "r.mangler, line 3: bad.f(a)" in str(refusal)
    (work / "lib" / "bad.mangler").write_text("mangler 1\ntrimm a\n")
    refusal = said(work, 'include "lib/bad.mangler"')
    assert "bad.mangler, line 2" in str(refusal) and "r.mangler, line 2" in str(refusal)
    assert refusal.code is ExitCode.WRONG_FOR_ANY_EXTRACT


def test_files_that_include_each_other(work: Path) -> None:
    (work / "lib" / "one.mangler").write_text('mangler 1\ninclude "two.mangler"\n')
    (work / "lib" / "two.mangler").write_text('mangler 1\ninclude "one.mangler"\n')
    assert "loop: one.mangler → two.mangler → one.mangler" in str(said(work, 'include "lib/one.mangler"'))


def test_read_is_in_the_recipe_itself(work: Path) -> None:
    (work / "lib" / "bad.mangler").write_text('mangler 1\nread delimiter ";"\n')
    assert "read is in the recipe itself" in str(said(work, 'include "lib/bad.mangler"'))


def test_many_uses_of_one_argument_are_one_evaluation(work: Path) -> None:
    """Each definition uses its argument twice: evaluated anew each time, this would take hours."""
    lines = ["define f0(x) = trim(x)"]
    lines += [f"define f{n}(x) = if f{n - 1}(x) = 'q' then x else f{n - 1}(x)" for n in range(1, 9)]
    assert cleaned(work, "\n".join([*lines, "make c = f8(a)"]))[0]["c"] == "x"
