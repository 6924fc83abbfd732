"""Several extracts from Python: what `mangler run` does, with events."""

from __future__ import annotations

from pathlib import Path

import pytest

import mangler
from mangler.jobs.events import Event, Finished, Progress, Started


@pytest.fixture
def work(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.chdir(tmp_path)
    (tmp_path / "r.mangler").write_text("mangler 1\nrequire columns a\ntrim *\ntolerate 100%\n")
    (tmp_path / "in").mkdir()
    for name, content in (("one", "a,b\n 1,x\n"), ("three", "c\n1\n"), ("two", "a,b\n2,y\n3\n")):
        (tmp_path / "in" / f"{name}.csv").write_text(content)
    return tmp_path


@pytest.mark.parametrize("workers", [1, 2])
def test_each_extract_has_an_outcome_and_its_events(work: Path, workers: int) -> None:
    events: list[Event] = []
    outcomes = mangler.run_many("r.mangler", ["in"], "clean/", workers=workers, on_event=events.append)
    assert [(one.extract, one.delivered, one.code) for one in outcomes] == [
        ("in/one.csv", True, 0),
        ("in/three.csv", False, 1),
        ("in/two.csv", True, 0),
    ]
    refusal = outcomes[1].refusal
    assert (
        refusal is not None and refusal.mistakes[0].word == "unknown-column" and outcomes[1].summary is None
    )
    assert (work / "clean/one.csv").read_text() == "a,b\n1,x\n"
    assert (work / "clean/two.aside.csv").read_text().endswith(",3\n")
    assert [one.extract for one in events if isinstance(one, Finished)] == [one.extract for one in outcomes]
    started = {one.extract: one.size for one in events if isinstance(one, Started)}
    assert started == {one.extract: Path(one.extract).stat().st_size for one in outcomes}
    read = {one.extract: one.rows for one in events if isinstance(one, Progress)}
    assert read["in/one.csv"] == 1 and read["in/two.csv"] == 2


def test_all_into_one_output(work: Path) -> None:
    outcomes = mangler.run_many("r.mangler", ["in/one.csv", "in/two.csv"], "all.csv", together=True)
    assert all(one.delivered for one in outcomes)
    assert (work / "all.csv").read_text() == "a,b\n1,x\n2,y\n"


@pytest.mark.usefixtures("work")
def test_only_what_is_new() -> None:
    first = mangler.run_many("r.mangler", ["in"], "clean/", history="h.db", only_new=True)
    again = mangler.run_many("r.mangler", ["in"], "clean/", history="h.db", only_new=True)
    assert [one.skipped for one in first] == [False] * 3
    assert [(one.skipped, one.delivered) for one in again] == [(True, False), (False, False), (True, False)]
    with pytest.raises(mangler.Refusal, match="only_new needs a history"):
        mangler.run_many("r.mangler", ["in"], "clean/", only_new=True)


def test_what_is_wrong_for_all_of_them_is_raised_and_nothing_is_written(work: Path) -> None:
    with pytest.raises(mangler.Refusal, match="would both be written to"):
        mangler.run_many("r.mangler", ["in/one.csv", "in/../in2/one.csv"], "clean/")
    with pytest.raises(mangler.Refusal, match="is the extract itself"):
        mangler.run_many("r.mangler", ["in/one.csv"], "in/one.csv")
    with pytest.raises(mangler.Refusal, match="memory=1 is too little"):
        mangler.run_many("r.mangler", ["in"], "clean/", memory=1)
    (work / "r.mangler").write_text("mangler 1\ntrimm *\n")
    with pytest.raises(mangler.Refusal, match="trim"):
        mangler.run_many("r.mangler", ["in"], "clean/")
    assert not (work / "clean").exists() and (work / "in/one.csv").read_text() == "a,b\n 1,x\n"
