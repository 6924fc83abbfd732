from __future__ import annotations

import json
import os
import pty
import subprocess
from pathlib import Path

import pytest
from tests.cli.program import PROGRAM, mangler, said

from mangler.sample.generate import EXTRACTS, write_extract


@pytest.fixture
def work(tmp_path: Path) -> Path:
    write_extract(tmp_path / "week.csv", EXTRACTS[1])
    return tmp_path


def shown(work: Path, *words: str) -> list[str]:
    done = mangler("profile", *words, cwd=work)
    assert done.returncode == 0 and said(done) == ""
    return done.stdout.decode().splitlines()


def test_the_first_screen_is_a_line_a_column_the_worst_first(work: Path) -> None:
    lines = shown(work, "week.csv")
    assert lines[0] == "week.csv  60 rows, 12 columns"
    assert lines[1].startswith('delimiter ";"')
    names = [line.split()[0] for line in lines[4:16]]
    assert len(set(names)) == 12 and set(names[-3:]) == {"kiln", "potter", "cone"}
    assert any(line.split()[:2] == ["peak_c", "integer"] and "null words 6" in line for line in lines)
    assert lines[-2:] == [
        f"  See them:  mangler profile week.csv --columns {names[0]}",
        "  A recipe:  mangler draft week.csv --to RECIPE",
    ]


def test_it_fits_a_terminal_of_80_columns_and_24_lines(work: Path) -> None:
    names = ",".join(f"kiln_{n}" for n in range(40))
    (work / "wide.csv").write_text(f"{names}\n" + ",".join([" n/a"] * 30 + ["x"] * 10) + "\n")
    main, other = pty.openpty()
    os.set_blocking(main, True)
    env = {**os.environ, "COLUMNS": "80", "LINES": "24", "TERM": "dumb", "NO_COLOR": "1"}
    with subprocess.Popen([PROGRAM, "profile", "wide.csv"], cwd=work, stdout=other, env=env) as process:
        process.wait(60)
    os.close(other)
    text = os.read(main, 100_000).decode()
    os.close(main)
    lines = text.splitlines()
    assert len(lines) <= 24
    assert max(map(len, lines)) <= 80
    assert any(line.strip().startswith("and 25 more, 15 of them with something wrong") for line in lines)


def test_columns_in_full_with_steps_that_can_be_pasted(work: Path) -> None:
    lines = shown(work, "week.csv", "--columns", "peak_c, glazes")
    assert "peak_c  integer, stored as text" in lines
    assert any(line.startswith("  numbers     998 to 1,285, mean ") for line in lines)
    assert any(line.startswith("  histogram   998 ") and line.endswith(" 1,285") for line in lines)
    assert any(line.startswith("  parts at    ;          1 to 4 parts") for line in lines)
    start = lines.index("peak_c  integer, stored as text")
    first = lines.index("  steps", start) + 1
    steps = [line.strip() for line in lines[first : first + 3]]
    assert steps[0] == "trim peak_c squeeze  # 14 cells"
    done = mangler("try", "week.csv", *steps, "--save", "--recipe", "new.mangler", cwd=work)
    assert done.returncode == 0, said(done)
    assert mangler("run", "new.mangler", "week.csv", "--to", "o.csv", cwd=work).returncode == 0
    assert '    # Is "temoku" a slip for "tenmoku"?' in lines


def test_nothing_wrong_is_said(work: Path) -> None:
    (work / "a.csv").write_text("kiln\nold\nnew\nold\n")
    assert shown(work, "a.csv")[-1] == "Nothing is wrong that could be found."
    (work / "b.csv").write_text("kiln,cone\n")
    assert shown(work, "b.csv")[-1] == "It has a header and no rows."


def test_a_delimiter_that_does_not_fit_is_pointed_out(work: Path) -> None:
    lines = shown(work, "week.csv", "--read", 'delimiter ","')
    assert any(
        line.startswith("! the header of the extract has 1 column when it is split at") for line in lines
    )


def test_types_alone_are_no_fault(work: Path) -> None:
    (work / "a.csv").write_text("kiln,made\nold,1\nnew,2\n")
    lines = shown(work, "a.csv")
    assert lines[-3] == "Nothing is wrong that could be found; 1 step would give columns their types."
    assert lines[-2].endswith("--columns made")


def test_rows_without_a_place_are_reported(work: Path) -> None:
    (work / "a.csv").write_text("kiln,cone\n1,2,3\n4,5\n")
    assert "! 1 row does not fit in the table; row 1: 3 fields where the header has 2" in shown(work, "a.csv")


def test_standard_input_and_reading_words(work: Path) -> None:
    done = mangler("profile", "-", "--read", "header row 2", cwd=work, stdin=b"Log\nkiln|cone\n1|6\n1|7\n")
    assert done.stdout.decode().startswith("(standard input)  2 rows, 2 columns")


def test_json_gives_everything(work: Path) -> None:
    answer = json.loads(mangler("profile", "week.csv", "--json", cwd=work).stdout)
    assert answer["rows"] == 60 and len(answer["columns"]) == 12
    peak = next(column for column in answer["columns"] if column["name"] == "peak_c")
    assert peak["numbers"]["units"] == ["°C"] and sum(peak["numbers"]["histogram"]) == 54
    assert [step["sure"] for step in peak["steps"]] == [True, True, True]


@pytest.mark.parametrize(
    ("words", "code", "message"),
    [
        (("none.csv",), 3, "none.csv does not exist"),
        (("week.csv", "--columns", "glaze"), 1, 'the extract has no column "glaze"'),
        (("week.csv", "--columns", "glazes,,"), 2, "--columns"),
        (("week.csv", "--read", "delimitr ';'"), 2, "--read"),
        ((".",), 3, "is a folder"),
    ],
)
def test_what_is_refused(work: Path, words: tuple[str, ...], code: int, message: str) -> None:
    done = mangler("profile", *words, cwd=work)
    assert done.returncode == code
    assert message in said(done)
    assert done.stdout == b""
