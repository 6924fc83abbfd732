from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.recipes.command_line_steps import read_steps
from mangler.recipes.options import read_words
from mangler.recipes.recipe_editing import new_recipe, save_steps, with_steps

STEPS = read_steps(["trim   *  squeeze", "nullify '-' in result"])
ADDED = "trim * squeeze\nnullify '-' in result\n"


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("mangler 1\n", "mangler 1\n" + ADDED),
        ("mangler  1", "mangler  1\n" + ADDED),
        ("mangler 1\n\n\n", "mangler 1\n" + ADDED + "\n\n"),
        (
            "mangler 1\ntrim  a\n\nwrite line ends lf\n",
            "mangler 1\ntrim  a\n" + ADDED + "\nwrite line ends lf\n",
        ),
        ("mangler 1\nwrite line ends lf\ntrim a\n", "mangler 1\nwrite line ends lf\ntrim a\n" + ADDED),
        (
            "mangler 1\n# On it.\nwrite quotes always\n# End.\n",
            "mangler 1\n" + ADDED + "# On it.\nwrite quotes always\n# End.\n",
        ),
        ("mangler 1\ntrim a\n# Last.\n", "mangler 1\ntrim a\n# Last.\n\n" + ADDED),
        (
            "mangler 1\ntrim a,\n   b  # both\n  # really\n",
            "mangler 1\ntrim a,\n   b  # both\n  # really\n" + ADDED,
        ),
        (
            "mangler 1\ntrim a\ntest\n  a\n  x\n  becomes\n  a\n  x",
            "mangler 1\ntrim a\ntest\n  a\n  x\n  becomes\n  a\n  x\n" + ADDED,
        ),
    ],
)
@pytest.mark.parametrize("line_end", ["\n", "\r\n"])
def test_nothing_else_changes(before: str, after: str, line_end: str) -> None:
    wanted = after.replace("\n", line_end)
    if "\n" in before:
        assert with_steps(before.replace("\n", line_end), STEPS) == wanted
    else:
        assert with_steps(before, STEPS) == after


@pytest.mark.parametrize("title", ["kiln-log", "it's {x}", 'a "b" \\'])
def test_a_new_recipe_is_one(title: str) -> None:
    text = new_recipe(title, STEPS, read_words('delimiter ";"'))
    recipe = LinkedRecipe.parse(text)
    assert recipe.title == title and recipe.parsed.only("read") is not None
    assert text.endswith("\n\n" + ADDED)


def test_files(tmp_path: Path) -> None:
    path = tmp_path / "week.mangler"
    save_steps(path, STEPS)
    assert path.read_text() == 'mangler 1 "week"\n\n' + ADDED
    save_steps(path, read_steps(["recase result upper"]))
    assert path.read_text() == 'mangler 1 "week"\n\n' + ADDED + "recase result upper\n"
