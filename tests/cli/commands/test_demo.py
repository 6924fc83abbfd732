from __future__ import annotations

import shlex
from pathlib import Path

from tests.cli.program import mangler, said


def test_the_demo_writes_the_example_and_cleans_three_weeks(tmp_path: Path) -> None:
    done = mangler("demo", cwd=tmp_path)
    assert done.returncode == 0
    folder = tmp_path / "kiln-log"
    assert sorted(path.name for path in folder.iterdir()) == [
        ".mangler",
        "clean",
        "corrected-row.csv",
        "extracts",
        "kiln-log-from-week-20.mangler",
        "kiln-log.mangler",
        "kilns.csv",
        "reports",
    ]
    pages = {path.name: path.read_text("utf-8") for path in (folder / "reports").iterdir()}
    assert sorted(pages) == ["columns.svg", "week-20.html", "weeks-19-and-20.html"]
    assert "Delivered: 157 rows, and every row read is accounted for; 1 set aside." in pages["week-20.html"]
    assert "columns new" in pages["weeks-19-and-20.html"] and "share comes from pieces and studio" in said(
        done
    )
    assert sorted(path.name for path in (folder / "clean").iterdir()) == [
        "clayworks-week-18.csv",
        "clayworks-week-19.csv",
        "clayworks-week-20.aside.csv",
        "clayworks-week-20.csv",
        "clayworks-week-21.xlsx",
        "corrected-row.csv",
        "quayside-week-19.aside.csv",
        "quayside-week-19.csv",
    ]
    assert said(done).count("rows: 60 read + ") == 5 and said(done).count("rows: 1 read ") == 1
    for word in ("pending", "tba"):
        assert word not in (folder / "clean" / "clayworks-week-20.csv").read_text("utf-8")


def test_the_drifted_week_is_caught_and_the_fixed_recipe_proves_itself(tmp_path: Path) -> None:
    text = said(mangler("demo", "log", cwd=tmp_path))
    assert '! result: values never seen: "tba" in 2' in text
    assert "! pieces: 18 cells have up to 4 parts" in text
    assert mangler("test", "log/kiln-log-from-week-20.mangler", cwd=tmp_path).returncode == 0
    command = next(line for line in text.split("\n") if line.startswith("  mangler check"))
    assert mangler(*command.split()[1:], cwd=tmp_path).returncode == 1
    extracts = sorted((tmp_path / "log" / "extracts").iterdir())
    done = mangler("run", "log/kiln-log.mangler", *extracts, "--to", "clean/", cwd=tmp_path)
    assert done.returncode == 1 and "6 extracts: 4 delivered into clean/, 2 not delivered" in said(done)


def test_the_workbook_runs_with_the_same_recipe_and_differences_of_format_are_reported(
    tmp_path: Path,
) -> None:
    text = said(mangler("demo", "log", cwd=tmp_path))
    assert "Warning: fired_at: its type is timestamp, and was text" in text
    assert "Warning: the format is workbook, and was delimited text" in text
    command = next(line for line in text.split("\n") if line.startswith("  mangler run"))
    assert mangler(*command.split()[1:], cwd=tmp_path).returncode == 0


def test_it_ends_with_commands_that_work(tmp_path: Path) -> None:
    text = said(mangler("demo", "log", cwd=tmp_path))
    commands = text[text.index("Now try:") :].strip().split("\n")[1:]
    assert [shlex.split(command)[1] for command in commands] == ["profile", "try", "test"]
    for command in commands:
        assert mangler(*shlex.split(command)[1:], cwd=tmp_path).returncode == 0, command


def test_a_folder_that_is_there_is_left_alone(tmp_path: Path) -> None:
    (tmp_path / "kiln-log").mkdir()
    done = mangler("demo", cwd=tmp_path)
    assert done.returncode == 3 and "is there already" in said(done)
    assert mangler("demo", "no/where", cwd=tmp_path).returncode == 3
    assert not any((tmp_path / "kiln-log").iterdir())


def test_more_rows(tmp_path: Path) -> None:
    assert mangler("demo", "log", "--rows", "200", cwd=tmp_path).returncode == 0
    assert "F20-0200" in (tmp_path / "log" / "extracts" / "clayworks-week-20.csv").read_text()
