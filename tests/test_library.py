"""Mangler from Python, as the README has it."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest

from mangler import Recipe, Refusal
from mangler.history.store import History, State
from mangler.sample.generate import SampleExtract, write_extract, write_sample

README = Path(__file__).parents[1] / "README.md"


@pytest.fixture
def work(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    (tmp_path / "kiln-log").mkdir()
    write_sample(tmp_path / "kiln-log")
    monkeypatch.chdir(tmp_path)
    return tmp_path / "kiln-log"


def test_the_readme_s_example_does_what_it_says(work: Path, capfd: pytest.CaptureFixture[str]) -> None:
    [code] = re.findall(r"```python\n(.*?)```", README.read_text("utf-8"), re.DOTALL)
    known: dict[str, Any] = {}
    exec(code, known)
    checked, result = known["checked"], known["result"]
    assert checked.fits and not checked.mistakes and not checked.findings
    assert result.table.num_rows == 134 and result.rows_aside == [] and result.warnings == []
    assert result.path is None and result.summary.balance.read == 60
    assert capfd.readouterr() == ("", "")
    assert not (work / ".mangler").exists()


def test_a_history_of_runs_and_what_is_not_as_it_was(work: Path) -> None:
    recipe, history = Recipe.load(work / "kiln-log.mangler"), work / "h.db"
    with pytest.raises(Refusal, match="there is no history"):
        recipe.check(work / "extracts" / "clayworks-week-18.csv", history=history)
    assert not history.exists()
    week_20 = work / "extracts" / "clayworks-week-20.csv"
    for week in (18, 19):
        extract = work / "extracts" / f"clayworks-week-{week}.csv"
        result = recipe.run(extract, to=work / f"{week}.csv", history=history)
        assert result.path == work / f"{week}.csv" and result.path.is_file() and result.table is None
    checked = recipe.check(week_20, history=history)
    assert not checked.fits and checked.earlier == 2 and len(checked.findings) == 5
    assert not recipe.check(week_20).findings
    with pytest.raises(Refusal, match="13 when it is split at"):
        recipe.run(week_20, to=work / "20.csv", history=history)
    assert not (work / "20.csv").exists()
    noted = History.open(history)
    assert [run.state for run in noted.runs()] == [State.REFUSED, State.DELIVERED, State.DELIVERED]
    noted.close()


@pytest.mark.parametrize("studio", ["clayworks", "quayside"])
def test_ten_weeks_of_the_same_studio_bring_no_warning(work: Path, studio: str) -> None:
    recipe, history = Recipe.load(work / "kiln-log.mangler"), work / "h.db"
    for week in range(21, 31):
        extract = work / f"{studio}-week-{week}.csv"
        write_extract(extract, SampleExtract(extract.name, studio, week))
        assert recipe.check(extract).fits
        assert recipe.run(extract, to=work / "o.csv", history=history).warnings == []


def test_a_scheduler_s_task(
    work: Path, capfd: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    """The example of docs/python.md: what is new is cleaned once, and what happened to each extract is reported."""
    document = (README.parent / "docs" / "python.md").read_text("utf-8")
    code, _, several = re.findall(r"```python\n(.*?)```", document, re.DOTALL)
    known: dict[str, Any] = {}
    exec(code, known)
    said = known["clean_new_extracts"](work, work / "clean")
    assert sorted(said) == [path.name for path in sorted((work / "extracts").glob("*.csv"))]
    assert said["clayworks-week-18.csv"] == "134 rows delivered"
    assert said["quayside-week-19.csv"] == "130 rows delivered, 1 set aside"
    assert said["clayworks-week-20.csv"].startswith("refused: ")
    assert sorted(path.name for path in (work / "clean").glob("*week*")) == [
        "clayworks-week-18.csv",
        "clayworks-week-19.csv",
        "quayside-week-19.aside.csv",
        "quayside-week-19.csv",
    ]
    assert known["clean_new_extracts"](work, work / "clean").keys() == {"clayworks-week-20.csv"}
    monkeypatch.chdir(work)
    exec(several, known)
    assert known["late"] == ["extracts/clayworks-week-20.csv", "extracts/quayside-week-21.jsonl"]
    assert len(known["outcomes"]) == 6
    assert capfd.readouterr() == ("", "")


def test_strict_refuses_rows_set_aside_and_writes_nothing(work: Path) -> None:
    recipe = Recipe.load(work / "kiln-log.mangler")
    extract = work / "extracts" / "quayside-week-19.csv"
    assert len(recipe.run(extract).rows_aside) == 1
    with pytest.raises(Refusal, match="--strict does not allow"):
        recipe.run(extract, to=work / "o.csv", aside=work / "aside.csv", strict=True)
    assert not (work / "o.csv").exists() and not (work / "aside.csv").exists()


def test_a_recipe_from_a_text(work: Path) -> None:
    recipe = Recipe.parse('mangler 1 "Test"\ntrim *\n')
    assert recipe.title == "Test"
    assert recipe.run(work / "kilns.csv").table.num_rows == 6
    with pytest.raises(Refusal, match="has no history"):
        recipe.run(work / "kilns.csv", history=work / "h.db")
