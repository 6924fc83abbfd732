"""Recipes that a program wrote, or that do harm: refused clearly, or read in linear time."""

from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.expressions import calls
from mangler.language.mistake import ExitCode, Refusal, worst_of
from mangler.language.recipe import LARGEST, MOST_STATEMENTS

pytestmark = pytest.mark.usefixtures("in_a_minute")


def refused(text: str, message: str) -> None:
    with pytest.raises(Refusal, match=message):
        LinkedRecipe.parse(text)


def test_too_many_statements_are_refused_before_they_are_read() -> None:
    refused("mangler 1\n" + "trimm a\n" * MOST_STATEMENTS, f"has {MOST_STATEMENTS + 1:,} statements")


def test_includes_that_double_are_counted(tmp_path: Path) -> None:
    for level in range(15):
        inner = f'include "{level + 1}.mangler"\n' * 2 if level < 14 else "trim *\n"
        (tmp_path / f"{level}.mangler").write_text(f"mangler 1\n{inner}")
    with pytest.raises(Refusal, match="statements, and at most"):
        LinkedRecipe.load(tmp_path / "0.mangler")


def test_imports_that_double_are_read_once_each(tmp_path: Path) -> None:
    for level in range(19):
        inner = "".join(f'import "{level + 1}.mangler" as {prefix}\n' for prefix in "xy")
        (tmp_path / f"{level}.mangler").write_text(
            f"mangler 1\n{inner if level < 18 else 'define f(x) = x'}\n"
        )
    recipe = LinkedRecipe.load(tmp_path / "0.mangler")
    assert len(recipe.parsed.others) == 18


def test_files_that_name_each_other_too_deep(tmp_path: Path) -> None:
    for level in range(30):
        (tmp_path / f"{level}.mangler").write_text(f'mangler 1\ninclude "{level + 1}.mangler"\n')
    with pytest.raises(Refusal, match="more than 20 deep"):
        LinkedRecipe.load(tmp_path / "0.mangler")


def test_a_recipe_file_has_a_largest_size(tmp_path: Path) -> None:
    path = tmp_path / "r.mangler"
    path.write_bytes(b"mangler 1\n#" + b"x" * LARGEST)
    with pytest.raises(Refusal, match="is larger than 4 MB"):
        LinkedRecipe.load(path)


def test_definitions_that_double_are_bounded(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "a.csv").write_text("a\n1\n")
    lines = ["define f0(x) = x + x", *(f"define f{n}(x) = f{n - 1}(x) + f{n - 1}(x)" for n in range(1, 40))]
    recipe = LinkedRecipe.parse("mangler 1\n" + "\n".join([*lines, "make b = f39(1)"]))
    with pytest.raises(Refusal, match="calls definitions more than 1,000 times"):
        recipe.run(tmp_path / "a.csv")
    monkeypatch.setattr(calls, "MOST_EXPANSIONS", 7)
    few = LinkedRecipe.parse("mangler 1\n" + "\n".join([*lines, "make b = f2(1)"]))
    assert few.run(tmp_path / "a.csv").table.to_pydict()["b"] == [8]


@pytest.mark.parametrize("character", ["\x1b", "\x07", "\x00", "\x9b", "\x7f", "\ud800"])
def test_control_characters_are_written_as_escapes(character: str) -> None:
    refused(f'mangler 1\nreplace "{character}" with "x" in a\n', "cannot be in a recipe|not UTF-8")
    if character not in "\x00\ud800":
        LinkedRecipe.parse(f'mangler 1\nreplace "\\u{{{ord(character):X}}}" with "x" in a\n')


@pytest.mark.parametrize(
    "statement",
    [
        "split a at 9999999999999999999 into x, y",
        'clean list a at ";" with ";" first 9999999999999999999',
        "number rows as n from 9999999999999999999",
        "read header row 9999999999999999999",
        "make x = 99999999999999999999",
        'read encoding "punycode"',
        'read encoding "undefined"',
        'write encoding "idna"',
        'replace /a)|(b/ with "x" in a',
    ],
)
def test_values_that_no_clause_can_take(statement: str, tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("a\n1\n")
    with pytest.raises(Refusal) as refusal:
        LinkedRecipe.parse(f"mangler 1\n{statement}\n").run(tmp_path / "a.csv")
    assert refusal.value.code is ExitCode.WRONG_FOR_ANY_EXTRACT


def test_a_condition_may_be_null(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("a\n1\n2\n")
    for steps, rows in (
        ("keep rows where null", 0),
        ("drop rows where null", 2),
        ("trim a where null", 2),
        ('set aside rows where null because "x"', 2),
        ("keep rows where not null", 0),
        ("keep rows where a = '1' or null", 1),
        ("make b = if null then 1 else 2", 2),
    ):
        table = LinkedRecipe.parse(f"mangler 1\n{steps}\n").run(tmp_path / "a.csv").table
        assert table.num_rows == rows, steps


@pytest.mark.parametrize(
    ("codes", "worst"),
    [
        ([0, 4], 4),
        ([4, 1], 1),
        ([1, 2], 2),
        ([2, 3, 1], 3),
        ([3, 70], 70),
        ([70, 143, 0], 143),
        ([], 0),
        ([0], 0),
    ],
)
def test_of_several_codes_the_one_that_needs_a_look_most_counts(codes: list[int], worst: int) -> None:
    assert worst_of(codes) == worst
