"""`mangler run --append`: a table that grows, whole or not at all, and what the history says of it."""

from __future__ import annotations

import contextlib
import json
import signal
import subprocess
import time
from pathlib import Path
from random import Random

import pytest
from tests.cli.program import PROGRAM, mangler, said

RECIPE = 'mangler 1 "Growing"\ntrim *\ntolerate 100%\n'
WEEKS = ("1", "2", "3")


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text(RECIPE)
    for week in WEEKS:
        (tmp_path / f"w{week}.csv").write_text(f"kiln,cone\n{week} ,06\n")
    return tmp_path


def states(work: Path) -> list[tuple[str, str]]:
    runs = json.loads(mangler("history", "--json", cwd=work).stdout)["runs"]
    return [(run["account"]["extract"], run["state"]) for run in reversed(runs)]


def test_week_by_week(work: Path) -> None:
    for week in WEEKS:
        done = mangler("run", "r.mangler", f"w{week}.csv", "--append", "all.csv", "--only-new", cwd=work)
        assert done.returncode == 0
        end = said(done).splitlines()[-1]
        assert end.startswith("Delivered all.csv in" if week == "1" else "Appended to all.csv in")
        assert week == "1" or end.endswith(f"; it was the output of run {int(week) - 1}")
    whole = "kiln,cone\n1,06\n2,06\n3,06\n"
    assert (work / "all.csv").read_text() == whole
    again = mangler("run", "r.mangler", "w1.csv", "w2.csv", "--append", "all.csv", "--only-new", cwd=work)
    assert "2 extracts: 0 delivered, 2 skipped" in said(again) and (work / "all.csv").read_text() == whole
    shown = json.loads(mangler("history", "show", "3", "--json", cwd=work).stdout)["runs"][0]["account"]
    assert (shown["appended"], shown["replaced"]) == (True, "the output of run 2")
    assert "Appended to all.csv" in mangler("history", "show", "3", cwd=work).stdout.decode()


def test_only_what_is_in_that_file_counts_as_delivered(work: Path) -> None:
    """Delivered elsewhere, or to the file before it was made anew, is not in it."""
    mangler("run", "r.mangler", "w1.csv", "--to", "alone.csv", cwd=work)
    several = ("w1.csv", "w2.csv", "--append", "all.csv", "--only-new")
    assert "2 delivered behind the rows of all.csv" in said(mangler("run", "r.mangler", *several, cwd=work))
    assert "2 skipped" in said(mangler("run", "r.mangler", *several, cwd=work))
    mangler("run", "r.mangler", "w3.csv", "--to", "all.csv", cwd=work)
    assert "2 delivered" in said(mangler("run", "r.mangler", *several, cwd=work))
    assert (work / "all.csv").read_text() == "kiln,cone\n3,06\n1,06\n2,06\n"
    (work / "all.csv").unlink()
    assert "2 delivered" in said(mangler("run", "r.mangler", *several, cwd=work))


def test_one_that_does_not_fit_leaves_the_file_to_the_others(work: Path) -> None:
    (work / "w2.csv").write_text("kiln\n2\n")
    (work / "all.csv").write_text("kiln,cone\n0,06\n")
    done = mangler("run", "r.mangler", *(f"w{week}.csv" for week in WEEKS), "--append", "all.csv", cwd=work)
    # The columns of one output for all are those of the file.
    assert done.returncode == 0 and "this one has no column cone" in said(done)
    assert (work / "all.csv").read_text() == "kiln,cone\n0,06\n1,06\n2,\n3,06\n"
    done = mangler("run", "r.mangler", "w2.csv", "--append", "all.csv", cwd=work)
    assert done.returncode == 1 and "cone is there, and not in the rows that come" in said(done)
    assert (work / "all.csv").read_text() == "kiln,cone\n0,06\n1,06\n2,\n3,06\n"


def test_rows_set_aside_have_a_file_for_each_extract(work: Path) -> None:
    for week in WEEKS[:2]:
        (work / f"w{week}.csv").write_text("kiln,cone\n1,06\n2\n")
        mangler("run", "r.mangler", f"w{week}.csv", "--append", "all.csv", cwd=work)
    assert (work / "all.w1.aside.csv").read_text().endswith(",2\n")
    assert (work / "all.w2.aside.csv").read_text().endswith(",2\n")


def test_a_rehearsal_compares_the_columns_and_writes_nothing(work: Path) -> None:
    (work / "all.csv").write_text("cone,kiln\n06,0\n")
    done = mangler("run", "r.mangler", "w1.csv", "--append", "all.csv", "--rehearse", cwd=work)
    assert done.returncode == 1 and "the order is another" in said(done)
    (work / "all.csv").write_text("kiln,cone\n0,06\n")
    done = mangler("run", "r.mangler", "w1.csv", "--append", "all.csv", "--rehearse", cwd=work)
    assert done.returncode == 0 and (work / "all.csv").read_text() == "kiln,cone\n0,06\n"


@pytest.mark.parametrize(
    ("words", "message"),
    [
        (("--append", "all.csv", "--to", "b.csv"), "--to makes a file anew, and --append goes on with one"),
        (("--append", "-"), "rows are put behind those of a file"),
        (("--append", "out"), "out is a folder, and --append goes on with one file"),
        (("--append", "w1.csv"), "w1.csv is the extract itself"),
        (("--append", "nowhere/all.csv"), "the folder nowhere does not exist"),
        (("--append", "all.xlsx"), "no rows are put behind those of a workbook"),
    ],
)
def test_what_cannot_be_appended(work: Path, words: tuple[str, ...], message: str) -> None:
    (work / "out").mkdir()
    before = sorted(path.name for path in work.iterdir())
    done = mangler("run", "r.mangler", "w1.csv", *words, cwd=work)
    assert done.returncode in (1, 2, 3) and message in said(done)
    assert sorted(path.name for path in work.iterdir() if path.name != ".mangler") == before


def test_two_at_once_never_mix(work: Path) -> None:
    """Each run appends all its rows or none, and says so; nothing of one is lost under the other."""
    for week in WEEKS:
        rows = "".join(f"{week},{number}\n" for number in range(20_000))
        (work / f"w{week}.csv").write_text(f"kiln,cone\n{rows}")
    (work / "all.csv").write_text("kiln,cone\n")
    runs = [
        subprocess.Popen(
            [PROGRAM, "run", "r.mangler", f"w{week}.csv", "--append", "all.csv", "--quiet"],
            cwd=work,
            stderr=subprocess.PIPE,
        )
        for week in WEEKS
    ]
    codes = []
    for run in runs:
        _, stderr = run.communicate(timeout=120)
        codes.append(run.returncode)
        assert run.returncode == 0 or b"(written-by-another-run)" in stderr or b"(file-changed)" in stderr
    assert 0 in codes
    lines = (work / "all.csv").read_text().splitlines()[1:]
    counts = [sum(line.startswith(f"{week},") for line in lines) for week in WEEKS]
    assert counts == [20_000 if code == 0 else 0 for code in codes]


KILLS = 12


def test_killed_at_any_moment_the_file_is_the_old_or_the_new_one(work: Path) -> None:
    rows = "".join(f"{number},06\n" for number in range(40_000))
    (work / "w1.csv").write_text(f"kiln,cone\n{rows}")
    old = f"kiln,cone\n{rows}"
    words = [PROGRAM, "run", "r.mangler", "w1.csv", "--append", "all.csv", "--quiet"]
    (work / "all.csv").write_text(old)
    started = time.monotonic()
    subprocess.run(words, cwd=work, check=True, timeout=120)
    whole = time.monotonic() - started
    new, random = old + rows, Random(7)
    assert (work / "all.csv").read_text() == new
    for _ in range(KILLS):
        (work / "all.csv").write_text(old)
        for path in (work / ".mangler").iterdir():
            path.unlink()
        with subprocess.Popen(words, cwd=work) as run:
            time.sleep(random.uniform(0.3, 1.1) * whole)
            with contextlib.suppress(ProcessLookupError):
                run.send_signal(signal.SIGKILL)
            run.wait(60)
        found = (work / "all.csv").read_text()
        assert found in (old, new)
        noted = states(work) if (work / ".mangler" / "history.db").exists() else []
        assert [state for _, state in noted if state == "delivered"] == ["delivered"] * (found == new)
    (work / "all.csv").write_text(old)
    subprocess.run(words, cwd=work, check=True, timeout=120)
    assert (work / "all.csv").read_text() == new
    assert not [path for path in work.iterdir() if path.name.endswith(".mangler-part")]
