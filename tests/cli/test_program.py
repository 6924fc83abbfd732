from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest
from tests.cli.program import mangler, told

from mangler import __version__


def test_version(tmp_path: Path) -> None:
    assert mangler("--version", cwd=tmp_path).stdout.decode() == f"mangler {__version__}\n"


@pytest.mark.parametrize("words", [["--help"], ["run", "--help"], ["demo", "-h"]])
def test_help_everywhere(tmp_path: Path, words: list[str]) -> None:
    done = mangler(*words, cwd=tmp_path)
    assert done.returncode == 0 and "Usage: mangler" in done.stdout.decode()


def test_help_tells_options_and_exit_codes(tmp_path: Path) -> None:
    text = " ".join(mangler("run", "--help", cwd=tmp_path).stdout.decode().split())
    for word in ("--to", "--aside", "--rehearse", "--rows", "--quiet", "--json", "Exit codes"):
        assert word in text


def test_without_a_command_there_is_help(tmp_path: Path) -> None:
    done = mangler(cwd=tmp_path)
    assert done.returncode == 2 and "Usage" in done.stdout.decode() + told(done)
    assert "No such command" in told(mangler("ruin", cwd=tmp_path))


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
