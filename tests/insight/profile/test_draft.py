"""Drafts of the sample's extracts, and of files that are odd."""

from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.proof.proof import Outcome, prove
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.insight.profile.draft import draft
from mangler.insight.profile.profile import profile_file
from mangler.recipes.options import read_words
from mangler.recipes.recipe_layout import laid_out
from mangler.sample.generate import EXTRACTS, write_extract
from mangler.steps.read import settings
from mangler.table.settings import ReadSettings


def drafted(path: Path, read: str = "") -> str:
    words = read_words(read) if read else None
    return draft(profile_file(str(path), settings(words)), "kiln log").text


def verbs(text: str) -> list[str]:
    return [statement.verb for statement in LinkedRecipe.parse(text).parsed.statements]


@pytest.mark.parametrize("extract", EXTRACTS, ids=lambda extract: extract.file)
def test_the_draft_of_every_sample_extract_runs_as_it_is(extract, tmp_path: Path):
    path = tmp_path / "week.csv"
    write_extract(path, extract)
    text = drafted(path)
    assert laid_out("draft", text) == text
    recipe = LinkedRecipe.parse(text)
    verdicts = prove(recipe.parsed)
    assert len(verdicts) >= 8
    assert {verdict.outcome for verdict in verdicts} == {Outcome.PASSED}
    balance = recipe.run(path).summary.balance
    assert balance.read == 60
    assert balance.set_aside == (1 if extract.ragged or extract.drifted else 0)


def test_steps_are_in_the_order_of_the_work_with_their_reasons(tmp_path: Path):
    path = tmp_path / "week.csv"
    write_extract(path, EXTRACTS[0])
    text = drafted(path)
    order = list(dict.fromkeys(verb for verb in verbs(text) if verb != "test"))
    assert order[:5] == ["mangler", "read", "require columns", "trim", "nullify"]
    assert order[-2:] == ["clean list", "convert"]
    lines = text.split("\n")
    for number, line in enumerate(lines):
        if line.startswith(("nullify", "recase", "replace", "clean list", "convert", "trim")):
            assert lines[number - 1].startswith("# ")
    assert any(line.startswith("# split glazes at") for line in lines)
    assert "split" not in order


def test_the_same_words_of_several_columns_are_one_step(tmp_path: Path):
    path = tmp_path / "a.csv"
    path.write_text("kiln,glaze\n" + "n/a,ash\nold,n/a\nnew,shino\n" * 9)
    assert 'nullify "n/a" in kiln, glaze anycase\n' in drafted(path)


def test_white_space_in_few_columns_is_trimmed_there_and_in_many_everywhere(tmp_path: Path):
    path = tmp_path / "a.csv"
    path.write_text("a,b,c,d\n x ,y,z,w\n")
    assert "\ntrim a\n" in drafted(path)
    path.write_text("a,b,c,d\n x ,y ,z  z,w\n")
    assert "\ntrim * squeeze\n" in drafted(path)


def test_how_the_file_was_read_is_in_the_recipe(tmp_path: Path):
    path = tmp_path / "a.csv"
    path.write_bytes("kiln;caf\u00e9\n1;\u00e9\n2;\u00e9\n".encode("cp1252"))
    text = drafted(path)
    assert 'delimiter ";"' in text and "encoding" in text
    LinkedRecipe.parse(text).run(path)
    path.write_text("skipped\nkiln|glaze\n1|ash\n")
    text = drafted(path, 'delimiter "|" skip 1')
    assert '\nread delimiter "|" skip 1\n' in text
    assert LinkedRecipe.parse(text).run(path).summary.balance.read == 1


@pytest.mark.parametrize(
    "content",
    [
        "a\n",
        "a,b\n",
        "a\nx\n",
        '"Fired\nat?","a]b"\n" x ","n/a"\ny,z\n',
        'a,b\n"{x} ""q"" \\ "," \'s "\n',
        "ö,名\n é,窯 \n",
    ],
    ids=["header only", "two heads", "one cell", "odd names", "odd cells", "other scripts"],
)
def test_odd_files_have_drafts_that_run(content, tmp_path: Path):
    path = tmp_path / "odd.csv"
    path.write_text(content, "utf-8")
    text = drafted(path)
    assert laid_out("draft", text) == text
    recipe = LinkedRecipe.parse(text)
    assert [verdict for verdict in prove(recipe.parsed) if verdict.outcome is not Outcome.PASSED] == []
    assert recipe.run(path).summary.balance.is_even


@pytest.mark.parametrize("title", ['it\'s {a} "b"', "week\n19", "plain", "back\\slash", "tab\t'\""])
def test_a_title_stays_what_it_is(title, tmp_path: Path):
    path = tmp_path / "a.csv"
    path.write_text("a\nx\n")
    text = draft(profile_file(str(path), ReadSettings()), title).text
    assert LinkedRecipe.parse(text).title == title


@pytest.mark.parametrize(
    ("first", "is_on"), [("1234567890.12345678901", False), ("1234567.1234567891", True)]
)
def test_numbers_with_more_digits_than_a_float_keeps_are_asked_about(tmp_path: Path, first: str, is_on: bool):
    (tmp_path / "e.csv").write_text(f"n,k\n{first},a\n2.5,b\n3.25,c\n7.125,d\n")
    lines = drafted(tmp_path / "e.csv").splitlines()
    assert ("convert n to float" in lines) == is_on
    assert any("more digits than a float keeps" in line for line in lines) != is_on
