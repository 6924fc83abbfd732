from __future__ import annotations

from pathlib import Path

from tests.cli.program import mangler, told


def test_the_demo_writes_the_example_and_cleans_weeks_18_and_19(tmp_path: Path) -> None:
    done = mangler("demo", cwd=tmp_path)
    assert done.returncode == 0
    folder = tmp_path / "kiln-log"
    assert sorted(path.name for path in folder.iterdir()) == [
        "clean",
        "extracts",
        "kiln-log.mangler",
        "kilns.csv",
    ]
    assert sorted(path.name for path in (folder / "clean").iterdir()) == [
        "clayworks-week-18.csv",
        "clayworks-week-19.csv",
        "quayside-week-19.aside.csv",
        "quayside-week-19.csv",
    ]
    assert told(done).count("60 read + ") == 3


def test_the_command_that_the_demo_names_refuses_week_20(tmp_path: Path) -> None:
    last = told(mangler("demo", "log", cwd=tmp_path)).rstrip().split("\n")[-1]
    done = mangler(*last.split()[1:], cwd=tmp_path)
    assert done.returncode == 1
    assert "13 when it is split at" in told(done)
    extracts = sorted((tmp_path / "log" / "extracts").iterdir())
    done = mangler("run", "log/kiln-log.mangler", *extracts, "--to", "clean/", cwd=tmp_path)
    assert done.returncode == 1 and "4 extracts: 3 delivered, 1 not delivered" in told(done)


def test_a_folder_that_is_there_is_left_alone(tmp_path: Path) -> None:
    (tmp_path / "kiln-log").mkdir()
    done = mangler("demo", cwd=tmp_path)
    assert done.returncode == 3 and "is there already" in told(done)
    assert mangler("demo", "no/where", cwd=tmp_path).returncode == 3
    assert not any((tmp_path / "kiln-log").iterdir())


def test_more_rows(tmp_path: Path) -> None:
    assert mangler("demo", "log", "--rows", "200", cwd=tmp_path).returncode == 0
    assert "F20-0200" in (tmp_path / "log" / "extracts" / "clayworks-week-20.csv").read_text()
