"""What a command reads is never replaced by what it writes, under whatever name."""

from __future__ import annotations

import json
import os
from pathlib import Path

import pytest
from tests.cli.program import mangler, said

RECIPE = """mangler 1 "Test"
import "house.mangler" as house
include "common.mangler"
map kiln from "kilns.csv" unmatched keep
lookup "fuels.csv" on cone bring fuel
"""


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text(RECIPE)
    (tmp_path / "house.mangler").write_text("mangler 1\ndefine tidy(x) = trim(x)\n")
    (tmp_path / "common.mangler").write_text("mangler 1\n")
    (tmp_path / "kilns.csv").write_text("a,b\n7,007\n")
    (tmp_path / "fuels.csv").write_text("cone,fuel\n06,gas\n")
    (tmp_path / "a.csv").write_text("kiln,cone\n7,06\n")
    (tmp_path / "b.csv").write_text("kiln,cone\n8,06\n")
    (tmp_path / "linked").symlink_to("a.csv")
    (tmp_path / "hard.csv").hardlink_to(tmp_path / "kilns.csv")
    first = mangler("run", "r.mangler", "b.csv", "--to", "o.csv", cwd=tmp_path)
    assert first.returncode == 0, said(first)
    (tmp_path / "same").symlink_to("o.csv")
    return tmp_path


def contents(folder: Path) -> dict[str, bytes]:
    return {str(path): path.read_bytes() for path in sorted(folder.rglob("*")) if path.is_file()}


@pytest.mark.parametrize(
    ("words", "message"),
    [
        (["--to", "r.mangler"], "r.mangler is the recipe"),
        (["--to", "house.mangler"], "is a file that the recipe includes or imports"),
        (["--to", "common.mangler"], "is a file that the recipe includes or imports"),
        (["--to", "kilns.csv"], "is a file that the recipe reads in line 4"),
        (["--to", "hard.csv"], "is a file that the recipe reads in line 4"),
        (["--to", "fuels.csv"], "is a file that the recipe reads in line 5"),
        (["--to", "linked"], "linked is the extract itself"),
        (["--to", "./../" + "{folder}/a.csv"], "a.csv is the extract itself"),
        (["--to", ".mangler/history.db"], "is the history"),
        (["--to", "new.csv", "--aside", "r.mangler"], "r.mangler is the recipe"),
        (["--to", "new.csv", "--aside", "kilns.csv"], "is a file that the recipe reads"),
        (["--to", "new.csv", "--history", "a.csv"], "a.csv is the extract itself"),
        (["--to", "new.csv", "--history", "r.mangler"], "r.mangler is the recipe"),
        (["--to", "new.csv", "--history", "new.csv"], "new.csv is the history"),
        (["--to", "o.csv", "--aside", "same"], "same is to be the output too"),
        (["b.csv", "--to", "linked", "--together"], "linked is an extract of this command"),
    ],
)
def test_what_is_read_is_not_replaced(work: Path, words: list[str], message: str) -> None:
    before = contents(work)
    words = [word.replace("{folder}", work.name) for word in words]
    done = mangler("run", "r.mangler", "a.csv", *words, cwd=work)
    assert (done.returncode, message in said(done)) == (2, True), said(done)
    assert contents(work) == before


def test_two_outputs_that_are_one_file_are_refused(work: Path) -> None:
    (work / "out").mkdir()
    (work / "out" / "a.csv").write_text("old")
    (work / "out" / "b.csv").symlink_to("a.csv")
    done = mangler("run", "r.mangler", "a.csv", "b.csv", "--to", "out/", cwd=work)
    assert done.returncode == 2 and "out/b.csv is to be the output too" in said(done)
    assert (work / "out" / "a.csv").read_text() == "old"


def test_a_draft_does_not_replace_its_extract(work: Path) -> None:
    before = contents(work)
    done = mangler("draft", "a.csv", "--to", "linked", "--replace", cwd=work)
    assert done.returncode == 2 and "linked is the file that is drafted from" in said(done)
    assert contents(work) == before


def test_devices_can_be_written_as_often_as_one_likes(work: Path) -> None:
    done = mangler("run", "r.mangler", "a.csv", "--to", "/dev/null", "--aside", "/dev/null", cwd=work)
    assert done.returncode == 0, said(done)


def test_a_run_says_what_its_output_replaced(work: Path) -> None:
    again = mangler("run", "r.mangler", "a.csv", "--to", "o.csv", cwd=work)
    assert "it replaced the output of run 1" in said(again)
    (work / "o.csv").write_text("by hand")
    os.utime(work / "o.csv", (2e9, 2e9))
    edited = mangler("run", "r.mangler", "a.csv", "--to", "o.csv", cwd=work)
    assert "it replaced the output of run 2, which was changed since" in said(edited)
    (work / "kept.csv").write_text("by hand")
    (work / "kept.csv").replace(work / "o.csv")
    once_more = mangler("run", "r.mangler", "a.csv", "--to", "o.csv", "--json", cwd=work)
    assert json.loads(once_more.stdout)["extracts"][0]["replaced"] == "a file that was there"
    new = mangler("run", "r.mangler", "a.csv", "--to", "new.csv", cwd=work)
    assert "replaced" not in said(new)
    shown = mangler("history", "show", "2", cwd=work).stdout.decode()
    assert "it replaced the output of run 1" in shown


@pytest.mark.parametrize("command", ["run", "check"])
def test_an_extract_in_the_recipe_s_place_is_pointed_out(work: Path, command: str) -> None:
    (work / "many.csv").write_text("trimm a\n" * 500)
    done = mangler(command, "many.csv", "r.mangler", cwd=work)
    assert done.returncode == 2
    assert f"The recipe comes first: mangler {command} r.mangler many.csv" in said(done)
    assert said(done).count("\n") < 6


def test_more_than_ten_mistakes_are_counted(work: Path) -> None:
    (work / "wrong.mangler").write_text("mangler 1\n" + "trimm a\n" * 500)
    done = mangler("run", "wrong.mangler", "a.csv", cwd=work)
    assert done.returncode == 2
    assert said(done).count("wrong.mangler, line") == 10 and "and 490 more mistakes" in said(done)
