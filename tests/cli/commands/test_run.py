from __future__ import annotations

import json
import os
import pty
import subprocess
from pathlib import Path

import pytest
from tests.cli.program import PROGRAM, mangler, said

RECIPE = 'mangler 1 "Test"\nread delimiter ";"\nrequire columns kiln\ntrim *\ntolerate 100%\n'


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text(RECIPE)
    (tmp_path / "a.csv").write_text("kiln;cone\n007; 06 \n012;6\n")
    (tmp_path / "b.csv").write_text("kiln;cone\n031;10\n044\n")
    (tmp_path / "drifted.csv").write_text("kiln,cone\n007,06\n")
    return tmp_path


def names(folder: Path) -> list[str]:
    return sorted(path.name for path in folder.iterdir())


def test_a_file_to_a_file(work: Path) -> None:
    done = mangler("run", "r.mangler", "a.csv", "--to", "clean.csv", cwd=work)
    assert done.returncode == 0 and done.stdout == b""
    assert (work / "clean.csv").read_text() == "kiln;cone\n007;06\n012;6\n"
    text = said(done)
    assert "Test on a.csv" in text and "detected: line ends LF, encoding UTF-8" in text
    assert "rows: 2 read = 2 delivered\n" in text
    assert "\x1b" not in text


def test_many_files_to_a_folder_one_refused(work: Path) -> None:
    done = mangler("run", "r.mangler", "a.csv", "drifted.csv", "b.csv", "--to", "clean/", cwd=work)
    assert done.returncode == 1
    assert names(work / "clean") == ["a.csv", "b.aside.csv", "b.csv"]
    assert "not delivered  drifted.csv:" in said(done) and "2 when it is split at" in said(done)
    assert "3 extracts: 2 delivered into clean/, 1 not delivered" in said(done)


def test_a_pipe_in_and_out(work: Path) -> None:
    done = mangler("run", "r.mangler", "-", cwd=work, stdin=b"kiln;cone\n007; 06\n")
    assert done.returncode == 0
    assert done.stdout == b"kiln;cone\n007;06\n"
    assert "(standard input)" in said(done)
    assert mangler("run", "r.mangler", "a.csv", "--to", "-", "--quiet", cwd=work).stdout.startswith(b"kiln")


def test_rows_set_aside_need_a_file_when_the_table_goes_into_a_pipe(work: Path) -> None:
    done = mangler("run", "r.mangler", "b.csv", cwd=work)
    assert done.returncode == 1 and done.stdout == b""
    assert "1 row must be set aside" in said(done) and "--aside PATH" in said(done)
    done = mangler("run", "r.mangler", "b.csv", "--aside", "x.csv", cwd=work)
    assert done.returncode == 0 and done.stdout == b"kiln;cone\n031;10\n"
    assert (work / "x.csv").read_text().endswith("b.csv;2;2;1 field where the header has 2;044\n")


def test_rehearsing_writes_nothing(work: Path) -> None:
    before = names(work)
    done = mangler("run", "r.mangler", "b.csv", "--rehearse", cwd=work)
    assert done.returncode == 0
    assert done.stdout.decode().split() == ["row", "kiln", "cone", "text", "text", "1", "031", "10"]
    assert "nothing was written" in said(done)
    assert names(work) == before


def test_on_a_terminal_without_to_the_run_is_rehearsed(work: Path) -> None:
    ours, theirs = pty.openpty()
    child = subprocess.Popen(
        [PROGRAM, "run", "r.mangler", "a.csv"], cwd=work, stdout=theirs, stderr=subprocess.PIPE
    )
    _, stderr = child.communicate(timeout=60)
    os.close(theirs)
    shown = os.read(ours, 100_000).decode()
    os.close(ours)
    assert child.returncode == 0
    assert "007" in shown and b"nothing was written" in stderr


def test_only_some_rows(work: Path) -> None:
    done = mangler("run", "r.mangler", "b.csv", "--rows", "1", cwd=work)
    assert done.stdout == b"kiln;cone\n031;10\n"
    assert "only the first 1 row were read" in said(done) or "first 1 row" in said(done)


def test_quiet_is_quiet_except_errors(work: Path) -> None:
    assert said(mangler("run", "r.mangler", "a.csv", "--to", "o.csv", "--quiet", cwd=work)) == ""
    assert "not delivered" in said(
        mangler("run", "r.mangler", "drifted.csv", "--to", "o.csv", "--quiet", cwd=work)
    )


def test_json_has_the_documented_shape(work: Path) -> None:
    done = mangler("run", "r.mangler", "b.csv", "drifted.csv", "--to", "clean", "--json", cwd=work)
    answer = json.loads(done.stdout)
    assert done.returncode == 1
    good, bad = answer["extracts"]
    assert (
        good["delivered"] is True and good["output"] == "clean/b.csv" and good["aside"] == "clean/b.aside.csv"
    )
    assert good["balance"]["set_aside"] == 1
    assert [step["line"] for step in good["steps"]] == [2, 3, 4]
    assert bad["delivered"] is False and bad["mistakes"][0]["line"] == 2
    assert "rows:" not in said(done)
    (work / "bad.mangler").write_text("mangler 1\ntrimm x\n")
    done = mangler("run", "bad.mangler", "a.csv", "--to", "o.csv", "--json", cwd=work)
    assert done.returncode == 2
    assert json.loads(done.stdout)["mistakes"][0]["message"] == '"trimm" is not a verb'


def test_an_aside_file_of_an_earlier_run_is_pointed_out(work: Path) -> None:
    mangler("run", "r.mangler", "b.csv", "--to", "o.csv", cwd=work)
    done = mangler("run", "r.mangler", "a.csv", "--to", "o.csv", cwd=work)
    assert "o.aside.csv is of an earlier run" in said(done)


@pytest.mark.parametrize(
    ("words", "code", "message"),
    [
        (["r.mangler", "gone.csv", "--to", "o.csv"], 3, "does not exist"),
        (["gone.mangler", "a.csv", "--to", "o.csv"], 3, "no such file"),
        (["r.mangler", "a.csv", "--to", "no/where/o.csv"], 3, "does not exist"),
        (["r.mangler", "a.csv", "b.csv", "--to", "no/where/"], 3, "cannot be made"),
        (["r.mangler", "a.csv", "--to", "a.csv"], 2, "is the extract itself"),
        (["r.mangler", "a.csv", "--to", "o.csv", "--aside", "a.csv"], 2, "is the extract itself"),
        (["r.mangler", "a.csv", "--to", "o.csv", "--aside", "o.csv"], 2, "both be written"),
        (["r.mangler", "a.csv", "other/a.csv", "--to", "clean/"], 2, "both be written"),
        (["r.mangler", "a.csv", "b.csv"], 2, "Name a folder"),
        (["r.mangler", "a.csv", "b.csv", "--to", "b.csv"], 2, "is a file"),
        (["r.mangler", "-", "-", "--to", "clean/"], 2, "read once"),
        (["r.mangler", "a.csv", "--json"], 2, "cannot both take"),
        (["r.mangler"], 2, "Missing argument"),
        (["r.mangler", "a.csv", "--rows", "0"], 2, "--rows"),
        (["r.mangler", "a.csv", "--oops"], 2, "No such option"),
        (["r.mangler", "a.csv", "b.csv", "--to", "one.csv"], 2, "--to one.csv --together"),
        (["r.mangler", "a.csv", "b.csv", "--to", "one.parquet"], 2, "--to one.parquet --together"),
        (["r.mangler", "a.csv", "-o", "o.csv"], 2, "Write --to FILE"),
        (["r.mangler", "a.csv", "--output=o.csv"], 2, "Write --to FILE"),
        (["r.mangler", "a.csv", "--dry-run"], 2, "Write --rehearse"),
        (["r.mangler", "a.csv", "-p", "a=1"], 2, "Write --set NAME=VALUE"),
    ],
)
def test_what_cannot_be_done_is_reported_and_nothing_changes(
    work: Path, words: list[str], code: int, message: str
) -> None:
    (work / "o.csv").write_text("old")
    before = {path.name: path.read_bytes() for path in work.iterdir()}
    done = mangler("run", *words, cwd=work)
    assert (done.returncode, done.stdout) == (code, b"")
    assert message in " ".join(said(done).split())
    assert {path.name: path.read_bytes() for path in work.iterdir() if path.is_file()} == before


def test_the_highest_code_of_several_extracts_counts(work: Path) -> None:
    done = mangler("run", "r.mangler", "a.csv", "drifted.csv", "gone.csv", "--to", "clean", cwd=work)
    assert done.returncode == 3
    assert names(work / "clean") == ["a.csv"]


def test_all_mistakes_of_a_recipe_with_their_marks(work: Path) -> None:
    (work / "bad.mangler").write_text('mangler 1\ntrim kiln sqeeze\nfill "x"\n')
    done = mangler("run", "bad.mangler", "a.csv", "--to", "o.csv", cwd=work)
    assert done.returncode == 2
    assert said(done).startswith(
        'bad.mangler, line 2, column 11: "sqeeze" is not a clause of trim  (unknown-clause)\n'
        "    trim kiln sqeeze\n"
        "              ^^^^^^\n"
        "  Nearest: squeeze."
    )
    assert "bad.mangler, line 3, column 6" in said(done)


def test_a_rehearsal_shows_typed_columns(work: Path) -> None:
    (work / "t.mangler").write_text(
        "mangler 1\nmake n = integer(cone), half = n0 / 2\n".replace("n0", "integer(cone)")
    )
    text = mangler("run", "t.mangler", "a.csv", "--rehearse", cwd=work).stdout.decode()
    assert text.split("\n")[1].split() == ["text", "text", "integer", "float"]
    assert text.split("\n")[2].split() == ["1", "007", "·06·", "6", "3"]


def test_parameters_from_outside(work: Path) -> None:
    (work / "p.mangler").write_text(
        "mangler 1\nparameter least = 10\nkeep rows where integer(cone) >= least\n"
    )
    assert mangler("run", "p.mangler", "a.csv", "--to", "o.csv", "--set", "least=6", cwd=work).returncode == 0
    assert (work / "o.csv").read_text().count("\n") == 3
    for setting, message in (
        ("least", "gives no value"),
        ("most=1", "Its parameters: least"),
        ("least=x", "is not a number"),
    ):
        done = mangler("run", "p.mangler", "a.csv", "--to", "o.csv", "--set", setting, cwd=work)
        assert done.returncode == 2 and message in said(done)


def test_failing_rows_stop_the_run_or_go_aside(work: Path) -> None:
    (work / "f.mangler").write_text("mangler 1\nmake n = 60 % (integer(cone) - 6)\n")
    done = mangler("run", "f.mangler", "a.csv", "--to", "o.csv", cwd=work)
    assert done.returncode == 1 and not (work / "o.csv").exists()
    assert "2 rows fail in this step" in said(done) and "row 1, line 2: division by zero" in said(done)
    (work / "f.mangler").write_text("mangler 1\nset aside rows where cone ends with '6 ' because \"six\"\n")
    assert mangler("run", "f.mangler", "a.csv", "--to", "o.csv", cwd=work).returncode == 0
    assert (
        work / "o.aside.csv"
    ).read_text() == "_file;_row;_step;_reason;kiln;cone\na.csv;1;2;six;007; 06 \n"


def test_memory_is_an_amount(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text("a,b\n2,x\n1,y\n")
    (tmp_path / "r.mangler").write_text("mangler 1\nsort by a\n")
    for wrong, message in (("3x", "not an amount of memory"), ("-1", "not an amount"), ("3MB", "too little")):
        done = mangler("run", "r.mangler", "e.csv", "--to", "o.csv", "--memory", wrong, cwd=tmp_path)
        assert done.returncode == 2 and message in said(done), said(done)
    done = mangler("run", "r.mangler", "e.csv", "--to", "o.csv", "--memory", "0.5 GiB", cwd=tmp_path)
    assert done.returncode == 0 and (tmp_path / "o.csv").read_text() == "a,b\n1,y\n2,x\n"


def test_rows_beyond_the_memory_go_through_files(tmp_path: Path) -> None:
    rows = "".join(f"{n % 977},{'x' * 400}\n" for n in range(60_000))
    (tmp_path / "e.csv").write_text("a,b\n" + rows)
    (tmp_path / "r.mangler").write_text("mangler 1\nsort by a\n")
    words = ("run", "r.mangler", "e.csv", "--to", "o.csv", "--memory", "32MB")
    done = mangler(*words, cwd=tmp_path)
    assert done.returncode == 0, said(done)
    lines = (tmp_path / "o.csv").read_text().split("\n")[1:-1]
    assert [line.split(",")[0] for line in lines] == sorted(str(n % 977) for n in range(60_000))


def test_groups_beyond_the_memory_leave_no_file_behind(tmp_path: Path) -> None:
    lines = [f"{n % 20_011},{n % 7},{n}" for n in range(60_000)]
    (tmp_path / "e.csv").write_text("\n".join(["k,w,n", *lines]) + "\n")
    (tmp_path / "kilns.csv").write_text("number,fuel\n" + "".join(f"{n},gas\n" for n in range(0, 20_011, 2)))
    (tmp_path / "r.mangler").write_text(
        'mangler 1\nconvert n to integer\ngroup by k with t = sum(n), w = join(distinct w, "")\n'
        'lookup "kilns.csv" on k = number bring fuel\nkeep columns k, t, fuel\nmake fuel = coalesce(fuel, "none")\n'
        "pivot fuel into columns of t\n"
    )
    spools = tmp_path / "spools"
    spools.mkdir()
    expected: dict[int, int] = {}
    for n in range(60_000):
        expected[n % 20_011] = expected.get(n % 20_011, 0) + n
    for memory in ("32MB", "2GB"):
        words = ("run", "r.mangler", "e.csv", "--to", "o.csv", "--memory", memory)
        done = mangler(*words, cwd=tmp_path, env={"TMPDIR": str(spools)})
        assert done.returncode == 0, said(done)
        head, *rows = (tmp_path / "o.csv").read_text().splitlines()
        assert head == "k,gas,none"
        assert rows == [f"{k},{t}," if k % 2 == 0 else f"{k},,{t}" for k, t in expected.items()]
        assert list(spools.iterdir()) == []
        assert "60,000 read = 20,011 delivered" in said(done)


def test_a_file_to_look_into_that_is_not_there(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text("k,n\n1,2\n")
    (tmp_path / "r.mangler").write_text('mangler 1\nlookup "kilns.csv" on k\n')
    done = mangler("run", "r.mangler", "e.csv", "--to", "o.csv", cwd=tmp_path)
    assert done.returncode == 3 and "kilns.csv does not exist" in said(done)
    (tmp_path / "kilns.csv").write_text("k\n3\n")
    done = mangler("run", "r.mangler", "e.csv", "--to", "o.csv", cwd=tmp_path)
    assert done.returncode == 1 and "row 1, line 2: kilns.csv has no row for 1" in said(done)
    assert not (tmp_path / "o.csv").exists()


def test_strict_delivers_nothing_where_a_row_is_set_aside(tmp_path: Path) -> None:
    (tmp_path / "r.mangler").write_text('mangler 1 "Test"\ntrim *\ntolerate 1 row\n')
    (tmp_path / "a.csv").write_text("a,b\n1,2\n3\n")
    (tmp_path / "b.csv").write_text("a,b\n1,2\n")
    done = mangler("run", "r.mangler", "a.csv", "b.csv", "--to", "out/", "--strict", cwd=tmp_path)
    assert done.returncode == 1
    assert "a.csv: 1 row would be set aside, which --strict does not allow" in said(done)
    assert sorted(path.name for path in (tmp_path / "out").iterdir()) == ["b.csv"]
