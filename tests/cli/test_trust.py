"""What a recipe from somebody else can read, and what is kept from it."""

from __future__ import annotations

from pathlib import Path

import pytest
from tests.cli.program import mangler, said

SECRET = "pim:x:1000:kiln key"


@pytest.fixture
def work(tmp_path: Path) -> Path:
    folder = tmp_path / "work"
    folder.mkdir()
    (tmp_path / "secret.txt").write_text(f"{SECRET}\nmore\n")
    (tmp_path / "outside.csv").write_text("kiln,fuel\n007,gas\n")
    (tmp_path / "outside.mangler").write_text("mangler 1\ndefine tidy(x) = trim(x)\n")
    (folder / "inside.csv").write_text("kiln,fuel\n007,gas\n")
    (folder / "link.csv").symlink_to("../outside.csv")
    (folder / "loop.csv").symlink_to("loop.csv")
    (folder / "a.csv").write_text("kiln\n007\n")
    return folder


STEPS = [
    'lookup "../outside.csv" on kiln bring fuel',
    'lookup "link.csv" on kiln bring fuel',
    'map kiln from "../outside.csv"',
    'include "../outside.mangler"',
    'import "../outside.mangler" as house',
]


@pytest.mark.parametrize("step", STEPS)
@pytest.mark.parametrize(
    "command",
    [("run", "r.mangler", "a.csv", "--rehearse"), ("check", "r.mangler", "a.csv"), ("test", "r.mangler")],
)
def test_files_elsewhere_are_refused(work: Path, step: str, command: tuple[str, ...]) -> None:
    (work / "r.mangler").write_text(f"mangler 1\n{step}\n")
    done = mangler(*command, "--files-under", ".", cwd=work)
    assert done.returncode == 2 and "is not under ., and --files-under allows no file elsewhere" in said(done)
    assert "r.mangler, line 2" in said(done)
    assert mangler(*command, "--files-under", "..", cwd=work).returncode == 0
    assert mangler(*command, cwd=work).returncode == 0


def test_steps_tried_are_kept_too_and_files_under_the_folder_are_read(work: Path) -> None:
    words = ("try", "a.csv", 'lookup "../outside.csv" on kiln bring fuel', "--files-under", ".")
    assert mangler(*words, cwd=work).returncode == 2
    inside = mangler("try", "a.csv", 'lookup "inside.csv" on kiln bring fuel', "--files-under", ".", cwd=work)
    assert inside.returncode == 0 and "gas" in inside.stdout.decode()


@pytest.mark.parametrize("verb", ['include "../secret.txt"', 'import "../secret.txt" as house'])
def test_of_a_file_that_is_no_recipe_nothing_is_quoted(work: Path, verb: str) -> None:
    (work / "r.mangler").write_text(f"mangler 1\n{verb}\n")
    done = mangler("run", "r.mangler", "a.csv", "--rehearse", cwd=work)
    assert done.returncode == 2 and "../secret.txt is not a recipe" in said(done)
    assert SECRET not in said(done) and "more" not in said(done).split("is not a recipe")[1].replace(
        "mangler", ""
    )


def test_a_link_to_itself_is_a_file_that_is_not_there(work: Path) -> None:
    (work / "r.mangler").write_text('mangler 1\nlookup "loop.csv" on kiln bring fuel\n')
    done = mangler("run", "r.mangler", "a.csv", "--rehearse", cwd=work)
    assert done.returncode == 3 and "cannot be opened" in said(done)
    (work / "loop.mangler").symlink_to("loop.mangler")
    (work / "r.mangler").write_text('mangler 1\ninclude "loop.mangler"\n')
    done = mangler("run", "r.mangler", "a.csv", "--rehearse", cwd=work)
    assert done.returncode == 3 and "cannot be read" in said(done)


def test_a_file_called_dash_is_a_file(work: Path) -> None:
    (work / "r.mangler").write_text('mangler 1\nlookup "-" on kiln bring fuel\n')
    (work / "-").write_text("kiln,fuel\n007,wood\n")
    done = mangler("run", "r.mangler", "a.csv", "--to", "-", cwd=work, stdin=b"kiln,fuel\n007,stolen\n")
    assert done.stdout == b"kiln,fuel\n007,wood\n"
