"""`mangler compare`: what is shown of two tables, as JSON too, and what is refused."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from tests.cli.program import mangler, said

BEFORE = "id,kiln,peak\n1, k1,998\n2,k2,1222\n3,k3,\n4,k4,7\n"
AFTER = "id,kiln,peak,cone\n1,k1,998,6\n2,K2,1222.0,6\n5,k5,1,6\n3,k3,0,6\n"


@pytest.fixture
def place(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text(BEFORE)
    (tmp_path / "b.csv").write_text(AFTER)
    return tmp_path


def test_what_is_shown(place: Path) -> None:
    done = mangler("compare", "a.csv", "b.csv", cwd=place)
    assert done.returncode == 1 and not said(done)
    text = done.stdout.decode()
    for line in (
        "a.csv  4 rows, 3 columns",
        "b.csv  4 rows, 4 columns",
        "Rows belong together by id, which is a key of both.",
        "columns  3 in both; new: cone",
        "rows     3 changed; 1 gone; 1 new",
        "  peak                2              1            –            –                1",
        "⟨·⟩k1",
        "1222⟦.0⟧",
        "1 row only in a.csv",
        "1 row only in b.csv",
    ):
        assert line in text, text


def test_the_same_in_json(place: Path) -> None:
    done = mangler("compare", "a.csv", "b.csv", "--json", cwd=place)
    answer = json.loads(done.stdout)
    assert done.returncode == 1 and answer["differ"] and answer["key"] == ["id"]
    assert answer["columns"] == {
        "compared": ["id", "kiln", "peak"], "gone": [], "come": ["cone"], "reordered": False, "types": []
    }  # fmt: skip
    rows = {"before": 4, "after": 4, "same": 0, "changed": 3, "gone": 1, "come": 1, "moved": 0}
    assert answer["rows"] == {**rows, "unfit_before": 0, "unfit_after": 0}
    assert answer["gone"] == [{"row": 4, "cells": {"id": "4", "kiln": "k4", "peak": "7"}}]
    assert answer["come"] == [{"row": 3, "cells": {"id": "5", "kiln": "k5", "peak": "1"}}]
    kiln, peak = answer["differences"]
    assert kiln["kinds"] == {"white space": 1, "letter case": 1} and peak["cells"] == 2
    assert peak["changes"][1] == {
        "before": None, "after": "0", "kind": "null or value", "cells": 1, "row_before": 3, "row_after": 4
    }  # fmt: skip


def test_what_does_not_differ(place: Path) -> None:
    (place / "r.mangler").write_text("mangler 1\n")
    assert mangler("run", "r.mangler", "a.csv", "--to", "c.jsonl", cwd=place).returncode == 0
    done = mangler("compare", "a.csv", "c.jsonl", cwd=place)
    assert done.returncode == 0 and done.stdout.decode().endswith("Nothing differs.\n")
    piped = mangler("compare", "-", "c.jsonl", cwd=place, stdin=BEFORE.encode())
    assert piped.returncode == 0 and "(standard input)  4 rows" in piped.stdout.decode()
    assert mangler("compare", "a.csv", "b.csv", "--columns", "id", "--on", "id", cwd=place).returncode == 1


@pytest.mark.parametrize(
    ("words", "code", "message"),
    [
        (("a.csv", "none.csv"), 3, "none.csv does not exist"),
        (("-", "-"), 2, "standard input can be read once"),
        (("a.csv", "b.csv", "--on", "id", "--in-order"), 2, "Leave out one of them."),
        (("a.csv", "b.csv", "--on", "id,"), 2, ""),
        (("a.csv", "b.csv", "--on", "idd"), 1, "Nearest: id."),
        (("a.csv", "b.csv", "--on", "cone"), 1, 'a.csv has no column "cone"'),
        (("a.csv", "b.csv", "--columns", "nope"), 1, "nope"),
        (("a.csv", "b.csv", "--memory", "x"), 2, "not an amount of memory"),
        (("a.csv",), 2, "compare needs two tables"),
        (("a.csv", "b.csv", "--runs", "1", "2"), 3, ""),
        (("--runs", "1", "x"), 2, "not a valid int"),
    ],
)
def test_what_is_refused(place: Path, words: tuple[str, ...], code: int, message: str) -> None:
    done = mangler("compare", *words, cwd=place)
    if message:
        assert message in said(done)
    assert (done.returncode, done.stdout) == (code, b"") or not message


def test_many_changes_and_hostile_cells(place: Path) -> None:
    names = "id,kiln"
    (place / "c.csv").write_text(names + "\n" + "".join(f"{n},k{n}\n" for n in range(500)))
    (place / "d.csv").write_text(names + "\n" + "".join(f"{n},\x1b[31mk{n}\u202e\n" for n in range(500)))
    done = mangler("compare", "c.csv", "d.csv", "--most", "3", cwd=place)
    text = done.stdout.decode()
    assert "497 more different changes" in text and "\x1b" not in text and "\u202e" not in text


def test_a_run_against_another_table(place: Path) -> None:
    (place / "r.mangler").write_text("mangler 1\ntrim *\n")
    words = ("run", "r.mangler", "a.csv", "--to", "o.csv")
    first = mangler(*words, "--against", "b.csv", cwd=place)
    assert first.returncode == 0 and "⟨K2⟩" in said(first) and "b.csv  4 rows, 4 columns" in said(first)
    same = mangler(*words, "--against", "o.csv", cwd=place)
    assert same.returncode == 0 and "o.csv as it was" in said(same) and "Nothing differs." in said(same)
    (place / "r.mangler").write_text("mangler 1\ntrim *\nrecase kiln upper\n")
    other = mangler(*words, "--against", "o.csv", "--json", cwd=place)
    answer = json.loads(other.stdout)["against"]
    assert answer["before"] == "o.csv as it was" and answer["after"] == "o.csv"
    assert answer["differences"][0]["kinds"] == {"letter case": 4}
    quiet = mangler(*words, "--against", "b.csv", "--quiet", cwd=place)
    assert quiet.returncode == 0 and not said(quiet)
    parts = mangler(
        "run",
        "r.mangler",
        "a.csv",
        "a.csv",
        "b.csv",
        "--together",
        "--to",
        "t.csv",
        "--against",
        "a.csv",
        cwd=place,
    )
    assert parts.returncode == 0 and "a.csv  4 rows" in said(parts)


@pytest.mark.parametrize(
    "words",
    [("--rehearse",), ("--to", "-"), ("--to", "sqlite:///o.db#t"), ("b.csv", "--to", "folder/")],
)
def test_a_run_that_leaves_no_file_to_compare(place: Path, words: tuple[str, ...]) -> None:
    (place / "r.mangler").write_text("mangler 1\n")
    done = mangler("run", "r.mangler", "a.csv", *words, "--against", "b.csv", cwd=place)
    assert done.returncode == 2 and "--against compares the file that a run writes" in said(done)
    assert sorted(path.name for path in place.iterdir() if path.name != ".mangler") == [
        "a.csv",
        "b.csv",
        "r.mangler",
    ]


def test_outputs_of_past_runs(place: Path) -> None:
    (place / "r.mangler").write_text("mangler 1\ntrim *\n")
    for extract, output in (("a.csv", "1.csv"), ("b.csv", "2.csv"), ("b.csv", "1.csv"), ("a.csv", "4.csv")):
        assert mangler("run", "r.mangler", extract, "--to", output, cwd=place).returncode == 0
    done = mangler("compare", "--runs", "2", "4", cwd=place)
    assert done.returncode == 1 and "2.csv" in done.stdout.decode() and "gone: cone" in done.stdout.decode()
    gone = mangler("compare", "--runs", "1", "2", cwd=place)
    assert gone.returncode == 1 and "1.csv, and there is the output of run 3 now" in said(gone)
    (place / "2.csv").unlink()
    assert "which is not there any more" in said(mangler("compare", "--runs", "2", "4", cwd=place))
    assert "there is no run 9" in said(mangler("compare", "--runs", "9", "4", cwd=place))
    elsewhere = mangler("compare", "--runs", "3", "4", "--history", "none.db", cwd=place)
    assert elsewhere.returncode == 3 and "none.db" in said(elsewhere)
    both = mangler("compare", "a.csv", "b.csv", "--runs", "3", "4", cwd=place)
    assert both.returncode == 2 and "compare needs two tables" in said(both)
