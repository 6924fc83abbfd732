from __future__ import annotations

from pathlib import Path

import pytest
from tests.cli.program import mangler, said

from mangler.cli.main import COMMANDS


@pytest.mark.parametrize("command", COMMANDS)
def test_it_shows_what_the_option_shows(command: str, tmp_path: Path) -> None:
    asked = mangler("help", command, cwd=tmp_path)
    assert asked.returncode == 0 and said(asked) == ""
    assert asked.stdout.split() == mangler(command, "--help", cwd=tmp_path).stdout.split()


def test_without_a_name_it_lists_all(tmp_path: Path) -> None:
    text = mangler("help", cwd=tmp_path).stdout.decode()
    assert all(f" {command} " in text for command in COMMANDS)


def test_a_command_that_there_is_not(tmp_path: Path) -> None:
    done = mangler("help", "rnu", cwd=tmp_path)
    assert done.returncode == 2 and "Nearest: run." in said(done)
    done = mangler("help", "squeeze", cwd=tmp_path)
    assert done.returncode == 2 and "mangler manual squeeze" in said(done)
