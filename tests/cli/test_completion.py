"""What shells are offered while a command is typed, and how completion is installed."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path

import pytest
from tests.cli.program import PROGRAM, mangler, said


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "e.csv").write_text("kiln;studio;peak c\n007;a;1\n")
    (tmp_path / "r.mangler").write_text('mangler 1\nparameter least = 3\nparameter unit = "C"\ntrim *\n')
    mangler("run", "r.mangler", "e.csv", "--to", "o.csv", cwd=tmp_path)
    return tmp_path


def offered(work: Path, *words: str) -> list[str]:
    """What bash is offered for the last of the words."""
    line = " ".join(("mangler", *words))
    environment = {
        **os.environ,
        "COMP_WORDS": line,
        "COMP_CWORD": str(len(words)),
        "_MANGLER_COMPLETE": "complete_bash",
    }
    done = subprocess.run([PROGRAM], cwd=work, env=environment, capture_output=True, check=False)
    return done.stdout.decode().removesuffix("\n").split("\n")


@pytest.mark.parametrize(
    ("words", "found"),
    [
        (("lo",), ["look"]),
        (("look", "e.csv", "--columns", "st"), ["studio"]),
        (("look", "e.csv", "--columns", "'kiln,"), ["kiln, kiln", "kiln, studio", "kiln, [peak c]"]),
        (("look", "gone.csv", "--columns", "st"), [""]),
        (("run", "r"), ["r.mangler"]),
        (("run", "r.mangler", "--set", ""), ["least=", "unit="]),
        (("run", "gone.mangler", "--set", ""), [""]),
        (("history", "sh"), ["show"]),
        (("history", "show", ""), ["1"]),
        (("manual", "unknown-col"), ["unknown-column"]),
        (("help", "pro"), ["profile"]),
        (("run", "r.mangler", "e.csv", "--col"), ["--color"]),
    ],
)
def test_words_are_offered(work: Path, words: tuple[str, ...], found: list[str]) -> None:
    assert offered(work, *words) == found


@pytest.mark.parametrize(
    ("shell", "place"),
    [
        ("bash", ".bash_completions/mangler.sh"),
        ("zsh", ".zfunc/_mangler"),
        ("fish", ".config/fish/completions/mangler.fish"),
    ],
)
def test_the_shell_that_is_named_is_the_one(tmp_path: Path, shell: str, place: str) -> None:
    environment = {**os.environ, "HOME": str(tmp_path), "SHELL": "/bin/sh"}
    for words in ((f"--install-completion={shell}",), ("--install-completion", shell)):
        done = subprocess.run([PROGRAM, *words], env=environment, capture_output=True, check=False)
        assert done.returncode == 0 and f"Completion for {shell} is in".encode() in done.stderr
        script = (tmp_path / place).read_text()
        assert f"_MANGLER_COMPLETE=complete_{shell}" in script
        shown = subprocess.run([PROGRAM, "--show-completion", shell], env=environment, capture_output=True)
        assert shown.stdout.decode().strip() == script.strip()


def test_without_a_name_it_is_the_users_own(tmp_path: Path) -> None:
    environment = {**os.environ, "HOME": str(tmp_path), "SHELL": "/usr/bin/fish"}
    done = subprocess.run([PROGRAM, "--show-completion"], env=environment, capture_output=True, check=False)
    assert b"complete_fish" in done.stdout


def test_another_shell_is_refused(tmp_path: Path) -> None:
    done = mangler("--install-completion", "tcsh", cwd=tmp_path)
    assert done.returncode == 2 and "bash|zsh|fish" in said(done) and "(unknown-shell)" in said(done)
