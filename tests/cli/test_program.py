from __future__ import annotations

import subprocess
import sys
from pathlib import Path
from typing import get_args, get_type_hints

import pytest
from tests.cli.program import mangler, said
from typer.models import OptionInfo

from mangler import __version__
from mangler.cli.main import COMMANDS, command_called
from mangler.kernels import compiled


def test_version(tmp_path: Path) -> None:
    """With the kernels that are in use: here those that this process uses too."""
    told = mangler("--version", cwd=tmp_path).stdout.decode()
    assert told == f"mangler {__version__}, {compiled.in_use()} kernels\n"


def test_kernels_can_be_chosen_and_a_choice_that_cannot_be_had_is_refused(tmp_path: Path) -> None:
    numpy = mangler("--version", cwd=tmp_path, env={"MANGLER_KERNELS": "numpy"})
    assert numpy.stdout.decode() == f"mangler {__version__}, numpy kernels\n"
    wrong = mangler("demo", cwd=tmp_path, env={"MANGLER_KERNELS": "fast"})
    assert wrong.returncode == 2
    assert 'MANGLER_KERNELS is "fast"' in wrong.stderr.decode()
    assert "numpy or compiled" in wrong.stderr.decode()
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("command", COMMANDS)
def test_every_command_has_help_with_its_options_and_exit_codes(tmp_path: Path, command: str) -> None:
    done = mangler(command, "--help", cwd=tmp_path, env={"COLUMNS": "200"})
    text = " ".join(done.stdout.decode().split())
    assert done.returncode == 0 and text.startswith(f"mangler {command} ")
    for name, kind in get_type_hints(command_called(command), include_extras=True).items():
        for one in get_args(kind):
            if isinstance(one, OptionInfo):
                declared = [str(flag) for flag in (one.default, *(one.param_decls or ()))]
                flags = [flag for flag in declared if flag.startswith("--")]
                assert any(flag in text for flag in flags or [f"--{name.replace('_', '-')}"]), name
    if command not in ("manual", "demo"):
        assert "Exit codes 0 " in text
    assert f"mangler {command} " in mangler(command, "-h", cwd=tmp_path).stdout.decode()


def test_help_lists_every_command(tmp_path: Path) -> None:
    text = mangler("--help", cwd=tmp_path).stdout.decode()
    assert len(COMMANDS) == 14 and all(f" {command} " in text for command in COMMANDS)


def test_without_a_command_there_is_help(tmp_path: Path) -> None:
    done = mangler(cwd=tmp_path)
    assert done.returncode == 2 and "mangler COMMAND [OPTIONS]" in done.stdout.decode() + said(done)
    assert "No such command" in said(mangler("ruin", cwd=tmp_path))


@pytest.mark.parametrize(
    ("words", "unloaded"),
    [("['--version']", ["typer", "pyarrow", "numpy", "rich"]), ("['--help']", ["pyarrow", "numpy"])],
)
def test_quick_answers_load_nothing_heavy(words: str, unloaded: list[str]) -> None:
    code = (
        f"import sys; sys.argv = ['mangler', *{words}]\n"
        "from mangler.__main__ import main\n"
        "try: main()\nexcept SystemExit: pass\n"
        "print([name for name in sys.modules])"
    )
    loaded = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    assert not [name for name in unloaded if f"'{name}'" in loaded.splitlines()[-1]]
