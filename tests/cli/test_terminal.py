"""Nothing that comes from outside commands the terminal, wherever it is shown."""

from __future__ import annotations

import json
import os
import pty
import select
import subprocess
import time
from pathlib import Path

import pytest
from tests.cli.program import PROGRAM, mangler

COMMAND = "\x1b]0;x\x07\x1b[2J"
"""Names the window, rings, and clears the screen."""
ESCAPED = "\\u{1B}]0;x\\u{7}\\u{1B}[2J"
CELLS = f"cell {COMMAND}"
NAME = f"odd {COMMAND} name"

RECIPE = f"""mangler 1 "Title {ESCAPED}"
parameter p = "v {ESCAPED}"
require columns kiln, ["{ESCAPED}"] failures warn because "{ESCAPED}"
trim *
map kiln "{ESCAPED}" to "7{ESCAPED}", "012" to "12" unmatched keep
replace "{ESCAPED}" with "x" in studio
nullify "{ESCAPED}" in studio
require only "a" in studio failures warn
convert made to integer without "{ESCAPED}" failures aside
set aside rows where kiln = "set" because "reason {ESCAPED}"
test
  kiln            | studio | made
  "{ESCAPED}" | a      | 1
  becomes
  kiln            | studio | made integer
  "{ESCAPED}" | "{ESCAPED}" | 1
"""


@pytest.fixture(scope="module")
def work(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("terminal")
    (folder / "r.mangler").write_text(RECIPE)
    (folder / "plain.mangler").write_text("mangler 1\ntrim *\n")
    (folder / f"{NAME}.mangler").write_text("mangler 1\ntrim gone\n")
    (folder / "raw.mangler").write_text(f"mangler 1\n# {COMMAND}\ntrim *\n")
    (folder / "lk.mangler").write_text('mangler 1\nlookup "ref.csv" on kiln bring fuel\n')
    (folder / "ask.mangler").write_text(f'mangler 1\ntrim ["{ESCAPED}"]\nmake x = nope("{ESCAPED}")\n')
    (folder / "ref.csv").write_text(f"kiln,fuel\n{COMMAND.upper()},gas\n")
    rows = [f"{CELLS};{CELLS};12 {COMMAND}", f"012;{COMMAND};{CELLS}", "set;a;4", f"7;a;5;{COMMAND}"]
    rows += [f"{COMMAND};a;{number} {COMMAND}" for number in range(30)]
    (folder / "e.csv").write_text("kiln;studio;made\n" + "\n".join(rows) + "\n")
    (folder / "wide.csv").write_text(f"a {COMMAND};b\n1;{COMMAND}\n")
    (folder / "empty.csv").write_text(f"a {COMMAND};b\n")
    (folder / "twice.csv").write_text(f"a {COMMAND};a {COMMAND}\n1;2\n")
    (folder / f"{NAME}.csv").write_text(f"kiln;made\n{COMMAND};1\n")
    mangler("run", "r.mangler", "e.csv", "--to", "o.csv", cwd=folder)
    mangler("run", "plain.mangler", f"{NAME}.csv", "--to", f"{NAME}.out", cwd=folder)
    return folder


COMMANDS = [
    ("look", "e.csv"),
    ("look", "wide.csv"),
    ("look", "empty.csv"),
    ("look", "twice.csv"),
    ("look", f"{NAME}.csv"),
    ("look", f"{COMMAND}.csv"),
    ("look", "e.csv", "--where", f'kiln = "{COMMAND}"'),
    ("look", "e.csv", "--columns", COMMAND),
    ("look", "e.csv", "--columns", f"[{COMMAND}]"),
    ("look", "e.csv", "--read", COMMAND),
    ("look", "e.csv", "--json"),
    ("look", "e.csv", f"--{COMMAND}"),
    ("look", "e.csv", "--rows", COMMAND),
    ("profile", "e.csv"),
    ("profile", "wide.csv", "--columns", "*"),
    ("profile", "e.csv", "--columns", "*"),
    ("profile", "e.csv", "--json"),
    ("draft", "e.csv"),
    ("draft", "wide.csv"),
    ("draft", f"{NAME}.csv", "--to", f"{NAME}.drafted"),
    ("try", "e.csv", "trim *", "recase studio upper", "drop columns made"),
    ("try", "wide.csv", "make c = b"),
    ("try", "e.csv", 'split made at " " into a, b too many cut'),
    ("try", "e.csv", f"trim {COMMAND}"),
    ("try", "e.csv", f'nullify "{COMMAND}" in kiln'),
    ("try", "e.csv", "convert made to integer", "--recipe", "plain.mangler"),
    ("try", "e.csv", "trim *", "--recipe", f"{NAME}.mangler"),
    ("try", "e.csv", "trim *", "--recipe", "r.mangler", "--set", f"p={COMMAND}"),
    ("try", "e.csv", "trim *", "--recipe", "r.mangler", "--set", f"{COMMAND}=1"),
    ("try", "--given", f'x = "{ESCAPED}"', "x"),
    ("try", "--given", f'x = "{COMMAND}"', "x"),
    ("try", "--given", f'x = "{ESCAPED}"', "integer(x)"),
    ("check", "r.mangler", "e.csv"),
    ("check", "r.mangler", "wide.csv"),
    ("check", f"{NAME}.mangler", "e.csv"),
    ("check", "plain.mangler", f"{NAME}.csv"),
    ("test", "r.mangler"),
    ("test", f"{NAME}.mangler"),
    ("run", "r.mangler", "e.csv", "--rehearse"),
    ("run", "r.mangler", "e.csv", "--to", "o.csv"),
    ("run", "r.mangler", "e.csv", "wide.csv", "--to", "out/", "--workers", "2"),
    ("run", "r.mangler", "e.csv", "wide.csv", "--to", "all.csv", "--together"),
    ("run", "r.mangler", "e.csv", "--to", "o.csv", "--json"),
    ("run", "lk.mangler", "e.csv", "--rehearse"),
    ("run", "ask.mangler", "e.csv", "--rehearse"),
    ("run", "raw.mangler", "e.csv", "--rehearse"),
    ("run", f"{NAME}.mangler", f"{NAME}.csv", "--rehearse"),
    ("run", "plain.mangler", f"{NAME}.csv", "--to", f"{NAME}.out"),
    ("run", "plain.mangler", f"{COMMAND}*", "--to", "o.csv"),
    ("run", "r.mangler", "e.csv", "--to", f"no{COMMAND}/where/o.csv"),
    ("run", "r.mangler", "e.csv", "--memory", COMMAND, "--to", "o.csv"),
    ("run", "plain.mangler", "twice.csv", "--rehearse"),
    ("format", "--check", "r.mangler", f"{NAME}.mangler", "raw.mangler"),
    ("history",),
    ("history", "r.mangler"),
    ("history", "plain.mangler", "--json"),
    ("history", "show", "1"),
    ("history", "show", "2"),
    ("history", COMMAND),
    ("history", "--history", f"{COMMAND}.db"),
    ("manual", COMMAND),
    ("demo", f"no{COMMAND}/where"),
    (COMMAND,),
]


def on_terminal(words: tuple[str, ...], cwd: Path) -> str:
    """All that the program writes to a terminal that is both its outputs."""
    ours, theirs = pty.openpty()
    child = subprocess.Popen(
        [PROGRAM, *words],
        cwd=cwd,
        stdin=subprocess.DEVNULL,
        stdout=theirs,
        stderr=theirs,
        env={**os.environ, "TERM": "xterm-256color", "COLUMNS": "160", "LINES": "50"},
    )
    os.close(theirs)
    written = b""
    until = time.monotonic() + 60
    while time.monotonic() < until and select.select([ours], [], [], 60)[0]:
        try:
            piece = os.read(ours, 1 << 16)
        except OSError:  # the terminal is gone with the process
            break
        if not piece:
            break
        written += piece
    os.close(ours)
    assert child.wait(60) != 70, written
    return written.decode()


def holds_a_command(text: str) -> bool:
    """Whether a part of the command that sets it to work is there: its escapes, or the bell."""
    return "\x1b]0" in text or "\x1b[2J" in text or "\x07" in text or "\x9b" in text


@pytest.mark.parametrize(
    "words", COMMANDS, ids=lambda words: " ".join(words).encode("unicode_escape").decode()
)
def test_no_output_commands_the_terminal(work: Path, words: tuple[str, ...]) -> None:
    done = mangler(*words, cwd=work)
    assert done.returncode in (0, 1, 2, 3), done.stderr
    assert not holds_a_command(done.stdout.decode()) and not holds_a_command(done.stderr.decode())
    assert done.stdout or done.stderr
    if "--json" in words:
        json.loads(done.stdout)
    assert not holds_a_command(on_terminal(words, work))


def test_what_is_dangerous_is_shown_by_its_code_point(work: Path) -> None:
    shown = mangler("look", "wide.csv", cwd=work).stdout.decode()
    assert "‹001B›]0" in shown and "x‹0007›‹001B›[2J" in shown
    said = mangler("look", f"{COMMAND}.csv", cwd=work).stderr.decode()
    assert "‹001B›]0;x‹0007›‹001B›[2J.csv does not exist" in said
