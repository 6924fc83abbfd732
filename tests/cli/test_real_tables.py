"""Tables as people have them, through every command: they open, say what was found, and a draft of them runs."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from tests.cli.program import mangler, said

TABLES = {
    "row names": (',"kiln","peak"\n"1","007",1222\n"2","008",1000\n"3","009",1100\n', "read delimiter"),
    "two alike": ("kiln;peak;peak\n007;1;2\n008;3;4\n009;5;6\n", "called kiln, peak, peak_2"),
    "a title": ("Kiln log\n\nkiln;peak\n007;1222\n008;1000\n009;1100\n", "header row 3"),
    "comments": ("# log\n# of week 18\nkiln;peak\n007;1222\n008;1000\n", 'comment "#"'),
    "no header": ("007;1222;a\n008;1000;b\n009;1100;c\n007;1;d\n", "header absent"),
    "two lines of names": ("kiln;peak;held\n;°C;min\n" + "007;1222;20\n" * 6, "header rows 2"),
    "widths": (
        "kiln  remark       cone\n" + "007   went well    06\n008                6\n" * 3,
        "widths 6, 13, 4",
    ),
}


@pytest.mark.parametrize("name", TABLES)
def test_it_opens_and_its_draft_runs(tmp_path: Path, name: str) -> None:
    text, clause = TABLES[name]
    (tmp_path / "e.txt").write_text(text, "utf-8")
    looked = mangler("look", "e.txt", cwd=tmp_path)
    assert looked.returncode == 0
    assert "A recipe for it needs:  read " in looked.stdout.decode()
    told = json.loads(mangler("look", "e.txt", "--json", cwd=tmp_path).stdout)
    assert clause in told["read_as"]
    assert (
        json.loads(mangler("profile", "e.txt", "--json", cwd=tmp_path).stdout)["read_as"] == told["read_as"]
    )
    assert mangler("try", "e.txt", "trim *", cwd=tmp_path).stdout.decode().count(told["read_as"]) == 1
    mangler("draft", "e.txt", "--to", "d.mangler", cwd=tmp_path)
    assert mangler("test", "d.mangler", cwd=tmp_path).returncode == 0
    done = mangler("run", "d.mangler", "e.txt", "--to", "o.csv", "--strict", cwd=tmp_path)
    assert done.returncode == 0, said(done)


def test_steps_that_are_saved_read_the_file_as_it_was_read(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text(TABLES["a title"][0])
    mangler("try", "e.csv", "trim kiln", "--recipe", "r.mangler", "--save", cwd=tmp_path)
    assert 'read delimiter ";" header row 3' in (tmp_path / "r.mangler").read_text()
    assert mangler("run", "r.mangler", "e.csv", "--to", "o.csv", cwd=tmp_path).returncode == 0


def test_a_run_says_what_would_fit(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text(TABLES["a title"][0])
    (tmp_path / "r.mangler").write_text('mangler 1\nread delimiter ";"\ntrim peak\n')
    done = mangler("run", "r.mangler", "e.csv", "--to", "o.csv", cwd=tmp_path)
    assert done.returncode == 1
    assert "the extract reads as if its header were on line 3" in said(done)
    assert 'Write read delimiter ";" header row 3' in said(done)
    assert not (tmp_path / "o.csv").exists()


def test_next_weeks_unnamed_column_does_not_stop_a_run(tmp_path: Path) -> None:
    (tmp_path / "r.mangler").write_text('mangler 1\nread delimiter ";" names completed\n')
    (tmp_path / "e.csv").write_text("kiln;;kiln\n007;1;2\n")
    done = mangler("run", "r.mangler", "e.csv", "--to", "-", cwd=tmp_path)
    assert done.stdout.decode().splitlines()[0] == "kiln;column_2;kiln_2"
    (tmp_path / "r.mangler").write_text('mangler 1\nread delimiter ";"\n')
    done = mangler("run", "r.mangler", "e.csv", "--to", "-", cwd=tmp_path)
    assert done.returncode == 1
    assert "read names completed" in said(done) and "read called kiln, column_2, kiln_2" in said(done)
