from __future__ import annotations

import json
from pathlib import Path

import pytest
from tests.cli.program import mangler, said

from mangler.sample.generate import EXTRACTS, write_extract


@pytest.fixture
def work(tmp_path: Path) -> Path:
    write_extract(tmp_path / "week.csv", EXTRACTS[1])
    return tmp_path


def test_a_draft_is_written_proved_and_run(work: Path) -> None:
    done = mangler("draft", "week.csv", "--to", "first.mangler", cwd=work)
    assert done.returncode == 0 and done.stdout == b""
    assert said(done).startswith("Wrote first.mangler: ")
    assert mangler("test", "first.mangler", cwd=work).returncode == 0
    assert mangler("format", "--check", "first.mangler", cwd=work).returncode == 0
    assert mangler("run", "first.mangler", "week.csv", "--to", "o.csv", cwd=work).returncode == 0
    text = (work / "first.mangler").read_text("utf-8")
    assert text.startswith('mangler 1 "first"\n')
    assert mangler("draft", "week.csv", cwd=work).stdout.decode().split("\n")[1:] == text.split("\n")[1:]


def test_a_recipe_that_is_there_is_left_alone(work: Path) -> None:
    (work / "mine.mangler").write_text("mine")
    done = mangler("draft", "week.csv", "--to", "mine.mangler", cwd=work)
    assert done.returncode == 3
    assert "mine.mangler is there already, and is left as it is" in said(done)
    assert (work / "mine.mangler").read_text() == "mine"
    assert mangler("draft", "week.csv", "--to", "mine.mangler", "--replace", cwd=work).returncode == 0
    assert (work / "mine.mangler").read_text("utf-8").startswith("mangler 1")


def test_a_step_is_switched_on_by_taking_the_mark_away(work: Path) -> None:
    text = mangler("draft", "week.csv", cwd=work).stdout.decode()
    off = '# replace "temoku" with "tenmoku" in glazes anycase'
    assert off in text
    (work / "on.mangler").write_text(text.replace(off, off[2:]), "utf-8")
    assert mangler("run", "on.mangler", "week.csv", "--to", "o.csv", cwd=work).returncode == 0
    assert "temoku" not in (work / "o.csv").read_text("utf-8").replace("tenmoku", "")


def test_json_gives_the_recipe(work: Path) -> None:
    answer = json.loads(mangler("draft", "week.csv", "--to", "a.mangler", "--json", cwd=work).stdout)
    assert answer["written"] == "a.mangler"
    assert answer["recipe"] == (work / "a.mangler").read_text("utf-8")
    assert answer["steps"] >= 8 and answer["undecided"] >= 5


@pytest.mark.parametrize(
    ("words", "code", "message"),
    [
        (("none.csv",), 3, "none.csv does not exist"),
        (("week.csv", "--replace"), 2, "--replace has nothing to replace"),
        (("week.csv", "--to", "."), 3, ". is a folder"),
        (("week.csv", "--to", "gone/a.mangler"), 3, "gone"),
    ],
)
def test_what_is_refused(work: Path, words: tuple[str, ...], code: int, message: str) -> None:
    done = mangler("draft", *words, cwd=work)
    assert done.returncode == code
    assert message in said(done)
