from __future__ import annotations

import json
import sqlite3
from contextlib import closing
from hashlib import blake2b
from pathlib import Path

import pytest
from tests.cli.program import mangler, said

RECIPE = 'mangler 1 "Test"\ntrim *\ntolerate 100%\n'


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text(RECIPE)
    (tmp_path / "in").mkdir()
    for name in "abc":
        (tmp_path / "in" / f"{name}.csv").write_text(f"kiln,cone\n {name} ,06\n")
    return tmp_path


def runs(work: Path, *words: str) -> list[dict]:
    return json.loads(mangler("history", *words, "--json", cwd=work).stdout)["runs"]


def test_every_delivery_and_refusal_is_noted(work: Path) -> None:
    assert mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", cwd=work).returncode == 0
    (work / "bad.mangler").write_text(f"{RECIPE}require columns potter\n")
    assert mangler("run", "bad.mangler", "in/a.csv", "--to", "o.csv", cwd=work).returncode == 1
    refused, delivered = runs(work)
    assert (delivered["state"], refused["state"]) == ("delivered", "refused")
    assert delivered["extract_digest"] and delivered["account"]["output"] == "o.csv"
    assert refused["account"]["mistakes"][0]["message"] == 'the extract has no column "potter"'
    assert [run["run"] for run in runs(work, "r.mangler")] == [1]
    lines = mangler("history", cwd=work).stdout.decode().splitlines()
    assert lines[0].split()[:2] == ["run", "started"] and "refused" in lines[1]
    assert lines[0].split()[-2:] == ["recipe", "extract"] and "bad     in/a.csv" in lines[1]
    assert "recipe" not in mangler("history", "r.mangler", cwd=work).stdout.decode().splitlines()[0]
    shown = mangler("history", "show", "1", cwd=work).stdout.decode()
    assert "1 read = 1 delivered" in shown and "trim *" in shown
    assert "Test on in/a.csv" in shown
    assert 'no column "potter"' in mangler("history", "show", "2", cwd=work).stdout.decode()


def test_a_run_is_shown_as_it_was_reported(work: Path) -> None:
    (work / "in" / "a.csv").write_text("kiln,cone\n" + "1\n" * 5 + "2,06\n")
    told_then = said(mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", cwd=work))
    shown = mangler("history", "show", "1", cwd=work).stdout.decode()
    assert "  row 3, line 4: 1 field where the header has 2\n  and 2 more\n" in shown
    assert shown.endswith(told_then)


def test_rehearsals_and_parts_of_extracts_are_not_noted(work: Path) -> None:
    mangler("run", "r.mangler", "in/a.csv", "--rehearse", cwd=work)
    mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", "--rows", "1", cwd=work)
    assert not (work / ".mangler").exists()
    done = mangler("history", cwd=work)
    assert done.returncode == 3 and "there is no history .mangler/history.db" in said(done)


def test_a_pipe_is_a_delivery_too(work: Path) -> None:
    done = mangler("run", "r.mangler", "-", cwd=work, stdin=b"kiln\n x\n")
    assert done.stdout == b"kiln\nx\n"
    [run] = runs(work)
    assert run["state"] == "delivered" and run["extract_digest"]


def test_folders_and_patterns_are_extracts(work: Path) -> None:
    (work / "in" / ".hidden.csv").write_text("x\n")
    (work / "in" / "a.aside.csv").write_text("x\n")
    assert mangler("run", "r.mangler", "in", "--to", "out", cwd=work).returncode == 0
    assert sorted(path.name for path in (work / "out").iterdir()) == ["a.csv", "b.csv", "c.csv"]
    assert mangler("run", "r.mangler", "in/[ab].csv", "in/a.csv", "--to", "few/", cwd=work).returncode == 0
    assert sorted(path.name for path in (work / "few").iterdir()) == ["a.csv", "b.csv"]
    (work / "empty").mkdir()
    for words, message in ((("in/x*",), "no file fits in/x*"), (("empty",), "holds no extracts")):
        done = mangler("run", "r.mangler", *words, "--to", "out/", cwd=work)
        assert done.returncode == 3 and message in said(done)


def test_only_what_is_new_by_content_is_delivered(work: Path) -> None:
    words = ("run", "r.mangler", "in", "--to", "out/", "--only-new")
    assert said(mangler(*words, cwd=work)).count("delivered      in/") == 3
    (work / "in" / "a.csv").rename(work / "in" / "renamed.csv")
    (work / "in" / "b.csv").write_text("kiln,cone\nchanged,06\n")
    done = mangler(*words, cwd=work)
    assert done.returncode == 0
    text = said(done)
    assert "skipped        in/renamed.csv: run 1 of" in text and "to out/a.csv" in text
    assert text.count("delivered      in/") == 1 and "delivered      in/b.csv" in text
    assert "3 extracts: 1 delivered into out/, 2 skipped" in text
    (work / "r.mangler").write_text(f"{RECIPE}recase * upper\n")
    assert "the recipe has changed since" in said(mangler(*words, cwd=work))
    answer = json.loads(mangler(*words, "--json", cwd=work).stdout)
    assert [one["delivered_before"] for one in answer["extracts"]] == [4, 3, 1]
    assert [one["delivered"] for one in answer["extracts"]] == [False] * 3


def test_what_an_older_version_delivered_is_known_by_its_content(work: Path) -> None:
    """Its history holds digests of another kind, without a mark."""
    words = ("run", "r.mangler", "in", "--to", "out/", "--only-new")
    assert mangler(*words, cwd=work).returncode == 0
    with closing(sqlite3.connect(work / ".mangler" / "history.db")) as history, history:
        for (name,) in history.execute("SELECT extract FROM run").fetchall():
            older = blake2b((work / name).read_bytes(), digest_size=16).hexdigest()
            history.execute("UPDATE run SET extract_digest = ? WHERE extract = ?", (older, name))
    (work / "in" / "a.csv").rename(work / "in" / "renamed.csv")
    (work / "in" / "b.csv").write_text("kiln,cone\nchanged,06\n")
    text = said(mangler(*words, cwd=work))
    assert "skipped        in/renamed.csv: run 1 of" in text
    assert "3 extracts: 1 delivered into out/, 2 skipped" in text
    assert "3 skipped" in said(mangler(*words, cwd=work))


@pytest.mark.parametrize("more", [("--rehearse",), ("--rows", "1", "--to", "out/")])
def test_only_new_is_about_whole_extracts_that_are_delivered(work: Path, more: tuple[str, ...]) -> None:
    done = mangler("run", "r.mangler", "in", "--only-new", *more, cwd=work)
    assert done.returncode == 2 and "about whole extracts that are delivered" in said(done)


def test_a_history_of_its_own_place(work: Path) -> None:
    words = ("run", "r.mangler", "in/a.csv", "--to", "o.csv", "--history", "h.db")
    assert mangler(*words, cwd=work).returncode == 0
    assert not (work / ".mangler").exists()
    assert len(runs(work, "--history", "h.db")) == 1
    (work / "text.db").write_text("no database\n" * 50)
    done = mangler(*words[:-1], "text.db", cwd=work)
    assert done.returncode == 3 and "is not a history of Mangler" in said(done)


def test_where_no_history_can_be_kept_the_work_is_done_all_the_same(work: Path) -> None:
    (work / ".mangler").write_text("in the way")
    done = mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", cwd=work)
    assert done.returncode == 0
    assert "No history is kept: the history .mangler/history.db cannot be made" in said(done)
    done = mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", "--only-new", cwd=work)
    assert done.returncode == 3


@pytest.mark.parametrize(
    ("words", "code", "message"),
    [
        (("show", "9"), 1, "there is no run 9"),
        (("show",), 2, "history show needs the number of a run"),
        (("show", "last"), 2, "history show needs the number of a run"),
        (("a", "b"), 2, "a b is not a recipe"),
        (("none.mangler",), 3, "the recipe none.mangler does not exist"),
    ],
)
def test_what_is_refused(work: Path, words: tuple[str, ...], code: int, message: str) -> None:
    mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", cwd=work)
    done = mangler("history", *words, cwd=work)
    assert done.returncode == code and message in said(done)


def break_history(work: Path, statement: str) -> None:
    connection = sqlite3.connect(work / ".mangler" / "history.db")
    connection.execute(statement)
    connection.commit()
    connection.close()


def test_delivered_and_not_noted_is_said_so(work: Path) -> None:
    mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", cwd=work)
    break_history(
        work, "CREATE TRIGGER no BEFORE UPDATE ON run BEGIN SELECT RAISE(ABORT, 'no room for this'); END"
    )
    (work / "o.csv").unlink()
    done = mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", cwd=work)
    assert done.returncode == 4
    assert "Delivered, but not noted: the history" in said(done) and "no room for this" in said(done)
    assert (work / "o.csv").exists()
    answer = mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", "--json", cwd=work)
    assert "no room for this" in json.loads(answer.stdout)["extracts"][0]["not_noted"]
    several = mangler("run", "r.mangler", "in/a.csv", "gone.csv", "--to", "out/", cwd=work)
    assert several.returncode == 3  # what is wrong with an extract counts first
    assert "2 extracts: 1 delivered into out/, 1 not delivered" in said(several)


def test_runs_that_cannot_be_read_are_listed_all_the_same(work: Path) -> None:
    mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", cwd=work)
    mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", cwd=work)
    break_history(work, "UPDATE run SET account = x'00ff', extract = x'00ff', started = 7 WHERE number = 1")
    listed = mangler("history", "r.mangler", cwd=work)
    assert listed.returncode == 0 and "unknown" in listed.stdout.decode()
    shown = mangler("history", "show", "1", cwd=work)
    assert shown.returncode == 0 and "damaged, or of another version" in shown.stdout.decode()
    again = mangler("run", "r.mangler", "in/a.csv", "--to", "o.csv", "--only-new", cwd=work)
    assert again.returncode == 0 and "Traceback" not in said(again)
    assert mangler("history", "show", "9" * 30, cwd=work).returncode == 2
    assert mangler("history", "show", "9" * 18, cwd=work).returncode == 1
