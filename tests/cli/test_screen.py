"""Colour, pages and help, as a terminal has them."""

from __future__ import annotations

import fcntl
import os
import pty
import select
import struct
import subprocess
import termios
import time
from pathlib import Path

import pytest
from tests.cli.program import PROGRAM, mangler, said

import mangler as mangler_package
from mangler.cli.examples import EXAMPLES
from mangler.cli.main import COMMANDS
from mangler.cli.views.recipe_view import recipe_text

RECIPE = (Path(mangler_package.__file__).parent / "sample" / "kiln-log.mangler").read_text("utf-8")
CSV = "kiln;studio;result\n007; Clay Works ;good\n012;Quayside;Good\n"
PAGER = "#!/bin/sh\necho PAGED\ncat\n"


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text(CSV)
    (tmp_path / "pager").write_text(PAGER)
    (tmp_path / "pager").chmod(0o755)
    return tmp_path


def on_terminal(work: Path, *words: str, rows: int = 24, **variables: str) -> str:
    """What a terminal of so many rows is sent."""
    ours, theirs = pty.openpty()
    fcntl.ioctl(theirs, termios.TIOCSWINSZ, struct.pack("HHHH", rows, 90, 0, 0))
    environment = {**os.environ, "TERM": "xterm", "PAGER": str(work / "pager"), **variables}
    for name in ("NO_COLOR", "COLUMNS", "LINES"):
        environment.pop(name, None)
    child = subprocess.Popen(
        [PROGRAM, *words], stdin=theirs, stdout=theirs, stderr=theirs, cwd=work, env=environment
    )
    os.close(theirs)
    pieces, until = [], time.monotonic() + 60
    while time.monotonic() < until:
        if select.select([ours], [], [], 0.2)[0]:
            try:
                pieces.append(os.read(ours, 1 << 16))
            except OSError:
                break
        elif child.poll() is not None:
            break
    os.close(ours)
    assert child.wait(10) == 0
    return b"".join(pieces).decode()


def test_long_answers_are_paged_and_short_ones_are_not(work: Path) -> None:
    assert on_terminal(work, "manual", "split").startswith("PAGED")
    assert "PAGED" not in on_terminal(work, "manual", "split", rows=900)
    assert "PAGED" not in on_terminal(work, "look", "a.csv")
    assert on_terminal(work, "help", "run").startswith("PAGED")
    whole = on_terminal(work, "manual", "split", PAGER="no-such-pager")
    assert "PAGED" not in whole and "too many" in whole


def test_no_page_outside_of_a_terminal(work: Path) -> None:
    done = mangler("manual", "split", "--color", "always", cwd=work)
    assert done.returncode == 0 and b"PAGED" not in done.stdout and b"\x1b[" in done.stdout


def test_colour_is_where_it_is_asked_for(work: Path) -> None:
    step = ("try", "a.csv", "trim studio")
    plain = mangler(*step, cwd=work).stdout
    coloured = mangler(*step, "--color", "always", cwd=work).stdout
    assert b"\x1b[" not in plain and b"\x1b[" in coloured
    assert "31m" in on_terminal(work, *step)
    assert "\x1b[" not in on_terminal(work, *step, "--color", "never")
    assert b"\x1b[" in mangler("--color", "always", *step, cwd=work).stdout  # before the command, too
    mistake = mangler("try", "a.csv", "trim stduio", "--color=always", cwd=work)
    assert b"\x1b[2m(unknown-column)" in mistake.stderr.replace(b"  ", b"")
    done = mangler(*step, "--color", "blue", cwd=work)
    assert done.returncode == 2 and "write --color always" in said(done)


def test_a_draft_has_its_colours_on_a_terminal_only(work: Path) -> None:
    plain = mangler("draft", "a.csv", cwd=work).stdout.decode()
    coloured = mangler("draft", "a.csv", "--color", "always", cwd=work).stdout.decode()
    assert "\x1b[1mtrim\x1b[0m" in coloured and "\x1b" not in plain


def test_the_colours_of_a_recipe_change_no_character() -> None:
    text = recipe_text(RECIPE)
    assert text.plain == RECIPE
    styles = {RECIPE[span.start : span.end]: span.style for span in text.spans}
    assert styles["nullify"] == "bold" and styles['"none"'] == "green" and styles["/\\s*°C$/"] == "green"
    assert styles["# Blanks at both ends, doubled ones inside, no-break spaces."] == "dim"


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("demo")
    assert mangler("demo", cwd=folder).returncode == 0
    return folder / "kiln-log"


@pytest.mark.parametrize("command", [name for name in COMMANDS if name != "demo"])
def test_the_examples_of_the_help_work(command: str, demo: Path) -> None:
    for line, _ in EXAMPLES[command]:
        done = subprocess.run(
            line.replace("mangler", str(PROGRAM), 1), shell=True, cwd=demo, capture_output=True, check=False
        )
        drifted = "clayworks-week-20.csv" in line or command == "compare"  # what has changed
        assert done.returncode == int(drifted), (line, done.stderr.decode())


@pytest.mark.parametrize("command", COMMANDS)
def test_every_help_has_examples_and_no_boxes(command: str, work: Path) -> None:
    text = mangler("help", command, cwd=work).stdout.decode()
    assert all(line in text for line, _ in EXAMPLES[command])
    assert len(EXAMPLES[command]) >= 2 and not set("╭│╰") & set(text)
    lines = text.splitlines()
    assert lines[0].startswith(f"mangler {command}") and max(map(len, lines)) <= 110
