from __future__ import annotations

import gzip
import json
import os
import subprocess
from pathlib import Path

import pytest
from tests.cli.program import PROGRAM, mangler, said

CONTENT = 'kiln;studio;cone;notes\n007; Clay  Works\u00a0;06;"a\nb"\n012;"";10;\n'


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text(CONTENT)
    return tmp_path


def test_a_table_with_everything_visible(work: Path) -> None:
    lines = mangler("look", "a.csv", cwd=work).stdout.decode().split("\n")
    assert lines[0].startswith("a.csv  delimiter")
    assert lines[2].split() == ["row", "kiln", "studio", "cone", "notes"]
    assert lines[3].split() == ["text", "text", "text", "text"]
    assert lines[4].split() == ["1", "007", "·Clay··Works⍽", "06", "a↵b"]
    assert lines[5].split() == ["2", "012", '""', "10", "(null)"]
    assert lines[4].index("06") == lines[5].index("10") and lines[6] == "rows 1 to 2 of 2"


def test_numbers_are_to_the_right(work: Path) -> None:
    (work / "n.csv").write_text("a,b\n5,x\n100,y\n")
    lines = mangler("look", "n.csv", cwd=work).stdout.decode().split("\n")
    assert lines[4].index("5") == lines[5].index("100") + 2


def test_columns_that_do_not_fit_are_named(work: Path) -> None:
    names = [f"column_{n}_of_the_studio" for n in range(9)]
    (work / "wide.csv").write_text(";".join(names) + "\n" + ";".join("x" * 70 for _ in names) + "\n")
    text = mangler("look", "wide.csv", cwd=work).stdout.decode()
    assert "5 more columns do not fit: column_4_of_the_studio, column_5" in text
    assert "xxxxxxxxxxxx…xxxxxxxxxxx" in text


def test_standard_input_and_compressed_files(work: Path) -> None:
    (work / "a.csv.gz").write_bytes(gzip.compress(CONTENT.encode()))
    packed = mangler("look", "a.csv.gz", cwd=work).stdout.decode()
    piped = mangler("look", "-", cwd=work, stdin=CONTENT.encode()).stdout.decode()
    assert packed.split("\n")[2:] == piped.split("\n")[2:]


def test_only_the_front_of_a_stream_is_read(work: Path) -> None:
    """An endless stream is looked at as quickly as any."""
    endless = subprocess.Popen(["yes", "007;x"], stdout=subprocess.PIPE)
    done = subprocess.run(
        [PROGRAM, "look", "-", "--rows", "2"],
        stdin=endless.stdout,
        capture_output=True,
        timeout=60,
        cwd=work,
        env=os.environ,
        check=False,
    )
    endless.kill()
    assert endless.stdout is not None
    endless.stdout.close()
    endless.wait()
    assert done.returncode == 0 and b"rows 1 to 2" in done.stdout


def test_choices(work: Path) -> None:
    text = mangler("look", "a.csv", "--columns", "cone", "--from", "-1", cwd=work).stdout.decode()
    assert text.split("\n")[4].split() == ["2", "10"]
    text = mangler("look", "a.csv", "--read", 'delimiter "," header absent', cwd=work).stdout.decode()
    assert "column_1" in text


@pytest.mark.parametrize(
    ("words", "code", "message"),
    [
        (["a.csv", "--columns", "kilm"], 1, "Nearest: kiln"),
        (["a.csv", "--from", "0"], 2, "rows are counted from 1"),
        (["a.csv", "--from", "3"], 1, "has 2 rows, so none is row 3"),
        (["a.csv", "--read", "delimitr ';'"], 2, "Nearest: delimiter"),
        (["b.csv"], 3, "b.csv does not exist"),
        (["a.csv", "--rows", "0"], 2, ""),
    ],
)
def test_what_is_refused(work: Path, words: list[str], code: int, message: str) -> None:
    done = mangler("look", *words, cwd=work)
    assert done.returncode == code and message in said(done)


def test_a_table_without_rows(work: Path) -> None:
    (work / "none.csv").write_text("kiln;cone\n")
    done = mangler("look", "none.csv", cwd=work)
    assert done.returncode == 0 and "It has a header and no rows. Columns: kiln, cone" in done.stdout.decode()


def test_for_machines(work: Path) -> None:
    answer = json.loads(mangler("look", "a.csv", "--json", cwd=work).stdout)
    assert answer["columns"][0] == {"name": "kiln", "type": "text"}
    assert answer["rows"][1] == {"row": 2, "cells": ["012", "", "10", None]}
    assert answer["rows_in_extract"] == 2 and answer["unfit"] == []


def test_only_rows_that_meet_a_condition(work: Path) -> None:
    lines = mangler("look", "a.csv", "--where", "notes is null", cwd=work).stdout.decode().split("\n")
    assert lines[4].split()[:2] == ["2", "012"] and lines[5] == "1 row that meets the condition, of 2 rows"
    text = mangler("look", "a.csv", "--where", "kiln = 'x'", cwd=work).stdout.decode()
    assert "No row meets the condition." in text
    for wrong, message in (
        ("kiln", "a condition is needed"),
        ("kiln = ", "a value is expected"),
        ("kilm = 'x'", "Nearest: kiln"),
    ):
        done = mangler("look", "a.csv", "--where", wrong, cwd=work)
        assert done.returncode in (1, 2) and message in said(done)
    done = mangler("look", "a.csv", "--where", "integer(studio) = 1", cwd=work)
    assert done.returncode == 1 and "row 1, line 2" in said(done)


def test_a_reader_that_leaves_ends_it_quietly(work: Path) -> None:
    (work / "long.csv").write_text("kiln\n" + "007\n" * 5000)
    command = f"{PROGRAM} look long.csv --rows 5000 | head -n 1; exit ${{PIPESTATUS[0]}}"
    done = subprocess.run(["bash", "-c", command], cwd=work, capture_output=True, timeout=60, check=False)
    assert done.returncode == 0 and done.stderr == b"" and done.stdout.startswith(b"long.csv")


def test_of_many_rows_without_a_place_the_first_are_reported(work: Path) -> None:
    (work / "ragged.csv").write_text("a,b\n1,2\n" + "3\n" * 12)
    text = mangler("look", "ragged.csv", "--read", "ragged aside", cwd=work).stdout.decode()
    assert (
        text.count("does not fit in the table") == 5
        and "  and 7 more" in text
        and "rows 1 to 13 of 13" in text
    )
    text = mangler("try", "ragged.csv", "trim a", "--read", "ragged aside", cwd=work).stdout.decode()
    assert text.count("does not fit in the table") == 5 and "  and 7 more" in text
