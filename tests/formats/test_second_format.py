"""A format that only the tests know goes through every part of the program, with no change in the program."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import pytest
from tests.formats.tally_marks import MarksSink, TallyMarks

import mangler
from mangler.cli.main import program_for
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.trial.look import look_at
from mangler.engine.trial.trial import attempt
from mangler.formats import registry
from mangler.history.store import History
from mangler.insight.fingerprint.fingerprint import series_of
from mangler.insight.profile.profile import profile_file
from mangler.language.mistake import Refusal
from mangler.recipes.command_line_steps import read_steps, recipe_of
from mangler.table.settings import ReadSettings

WEEK_18 = "marks bowls vases\n||| ||\n- |\n| | |\n|| -\n||||| ||\n|| ||||\n"
RECIPE = (
    'mangler 1 "marks"\nmake all = bowls + coalesce(vases, 0) failures aside\nsort by all nulls first\n'
    "tolerate 1 row\n"
)


@pytest.fixture(autouse=True)
def second_format(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    monkeypatch.setattr(registry, "_others", [TallyMarks()])
    yield


@pytest.fixture
def extract(tmp_path: Path) -> Path:
    path = tmp_path / "week-18.marks"
    path.write_text(WEEK_18)
    (tmp_path / "r.mangler").write_text(RECIPE)
    return path


def test_look_shows_its_rows_with_their_types(extract: Path) -> None:
    view = look_at(str(extract), ReadSettings(), start=2, rows=3)
    assert [(column.name, str(column.type)) for column in view.columns] == [
        ("bowls", "integer"),
        ("vases", "integer"),
    ]
    assert view.numbers == [2, 4] and view.cells == [[None, "2"], ["1", None]]
    assert [row.reason for row in view.unfit] == ["another number of cells"]
    assert look_at(str(extract), ReadSettings(), start=-1).numbers == [6]


def test_the_commands_show_it(
    extract: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(extract.parent)
    shown = {}
    for words in (
        ["look", "week-18.marks"],
        ["profile", "week-18.marks"],
        ["check", "r.mangler", "week-18.marks"],
    ):
        program_for(words)(words, standalone_mode=False)
        shown[words[0]] = capsys.readouterr().out
    assert "format tally marks" in shown["look"] and "integer" in shown["look"]
    assert "bowls" in shown["profile"] and "week-18.marks" in shown["check"]


def test_try_works_on_it(extract: Path) -> None:
    trial = attempt(
        str(extract), recipe_of(None), read_steps(["fill vases with 0", "number rows as n"]), whole=True
    )
    assert trial.rows_in_extract == 6 and len(trial.unfit) == 1
    (change,) = trial.steps[0].differences.cells.values()
    assert (change.row, change.before, change.after) == (4, None, "0")


def test_profile_counts_it(extract: Path) -> None:
    profile = profile_file(str(extract), ReadSettings())
    assert (profile.rows, profile.unfit, profile.all_names) == (5, 1, ("bowls", "vases"))


def test_a_run_writes_it_sets_rows_aside_and_is_compared_with_earlier_ones(
    extract: Path, tmp_path: Path
) -> None:
    recipe = mangler.Recipe.load(tmp_path / "r.mangler")
    out, aside, history = tmp_path / "clean.marks", tmp_path / "aside.marks", tmp_path / "history.db"
    result = recipe.run(extract, out, aside, history=history)
    assert (
        out.read_text()
        == "marks bowls vases all\n- | -\n|| - ||\n||| || |||||\n|| |||| ||||||\n||||| || |||||||\n"
    )
    assert aside.read_text() == "marks bowls vases\n| | |\n"
    assert result.summary.balance.delivered == 5 and result.summary.detected == {"format": "tally marks"}
    with closing(History.open(history, make=False)) as store:
        assert len(store.fingerprints(str(tmp_path / "r.mangler"), series_of(str(extract)))) == 1
    assert recipe.check(extract, history).fits is True
    extract.write_text(WEEK_18.replace("vases", "jugs"))
    assert not recipe.check(extract, history).fits


def test_rows_set_aside_run_again(extract: Path, tmp_path: Path) -> None:
    recipe = LinkedRecipe.parse("mangler 1\nfill vases with 1\ntolerate 100%")
    recipe.run(extract, tmp_path / "clean.marks", tmp_path / "aside.marks")
    (tmp_path / "aside.marks").write_text((tmp_path / "aside.marks").read_text().replace("| | |", "| |"))
    again = recipe.run(tmp_path / "aside.marks")
    assert again.table.to_pylist() == [{"bowls": 1, "vases": 1}]


def test_it_is_written_as_delimited_text_where_the_name_says_so(extract: Path, tmp_path: Path) -> None:
    LinkedRecipe.parse("mangler 1\ntolerate 1 row").run(extract, tmp_path / "clean.csv")
    assert (tmp_path / "clean.csv").read_text() == "bowls,vases\n3,2\n,1\n2,\n5,2\n2,4\n"
    (tmp_path / "plain.csv").write_text("bowls,vases\n3,2\n")
    recipe = LinkedRecipe.parse("mangler 1\nconvert * to integer")
    recipe.run(tmp_path / "plain.csv", tmp_path / "clean.marks")
    assert (tmp_path / "clean.marks").read_text() == "marks bowls vases\n||| ||\n"


def test_a_clause_that_means_nothing_for_it_is_passed_over_with_a_remark(extract: Path) -> None:
    recipe = LinkedRecipe.parse('mangler 1\nread delimiter ";"\nwrite quotes always\ntolerate 1 row')
    result = recipe.run(extract, extract.with_name("clean.marks"))
    read, written = result.summary.steps[0].remarks
    assert "read delimiter means nothing for the format tally marks, and was ignored" in read
    assert "write quotes means nothing for the format tally marks" in written
    assert not result.summary.warnings


def test_beside_a_format_that_is_said_it_is_a_mistake(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("a\n1\n")
    with pytest.raises(Refusal, match="read sheet means nothing for the format delimited text") as refused:
        LinkedRecipe.parse("mangler 1\nread format text sheet 2").run(tmp_path / "a.csv")
    assert refused.value.mistakes[0].word == "clause-without-effect"
    with pytest.raises(Refusal, match="write quotes means nothing for the format Parquet"):
        LinkedRecipe.parse("mangler 1\nwrite format parquet quotes always").run(
            tmp_path / "a.csv", tmp_path / "b"
        )
    assert not (tmp_path / "b").exists()


def test_rows_that_a_sink_loses_are_not_delivered(
    extract: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:

    monkeypatch.setattr(MarksSink, "encode", lambda self, batch: b"| |\n")  # noqa: ARG005
    with pytest.raises(Refusal, match="the output holds 2 rows, and 5 rows came out of the steps"):
        LinkedRecipe.parse("mangler 1\ntolerate 1 row").run(extract, tmp_path / "clean.marks")
    assert not (tmp_path / "clean.marks").exists()
