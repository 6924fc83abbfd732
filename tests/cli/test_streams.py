"""Streams that are closed, full, or of an encoding that lacks characters; names that are not UTF-8."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from tests.cli.program import PROGRAM, mangler, said

BASH = shutil.which("bash") or "bash"


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text("mangler 1\ntrim *\n")
    (tmp_path / "a.csv").write_text("kiln,potter\n 007 ,Zoë\n")
    return tmp_path


def shell(line: str, cwd: Path) -> subprocess.CompletedProcess[bytes]:
    """Runs a line of the shell, in which $M is the program; the exit code is that of the program."""
    return subprocess.run(
        [BASH, "-c", f"{line}\nexit ${{PIPESTATUS[0]}}"],
        cwd=cwd,
        env={**os.environ, "M": str(PROGRAM)},
        capture_output=True,
        timeout=60,
        check=False,
    )


@pytest.mark.parametrize(
    ("line", "code", "message"),
    [
        ("$M --version >&-", 3, "standard output cannot be written: it is closed"),
        ("$M --help >&-", 3, "it is closed"),
        ("$M look a.csv >&-", 3, "it is closed"),
        ("$M run r.mangler a.csv >&-", 3, "standard output cannot be written"),
        ("$M look a.csv --json >/dev/full", 3, "no space left on device"),
        ("$M manual trim >/dev/full", 3, "no space left on device"),
        ("$M look gone.csv 2>/dev/full", 3, ""),
        ("$M look gone.csv 2>&-", 3, ""),
        ("$M run r.mangler - <&-", 3, "standard input cannot be read: it is closed"),
        ("$M format - <&-", 3, "standard input cannot be read: it is closed"),
        ("$M --version | true", 0, ""),
        ("$M --help | true", 0, ""),
        ("$M manual | head -n 1 >/dev/null", 0, ""),
    ],
)
def test_streams_that_are_not_there(work: Path, line: str, code: int, message: str) -> None:
    done = shell(line, work)
    assert done.returncode == code, done.stderr
    assert message in said(done) and (message or not done.stderr)


def test_a_stream_that_is_closed_is_not_taken_for_a_file(work: Path) -> None:
    """The first file that is opened would get the number of a closed stream, and messages would go into it."""
    done = shell("$M run r.mangler a.csv --to o.csv >&- 2>&- <&-", work)
    assert done.returncode == 0
    assert (work / "o.csv").read_text() == "kiln,potter\n007,Zoë\n"


def test_an_encoding_that_lacks_characters_gets_escapes(work: Path) -> None:
    (work / "a.csv").write_text("kiln;potter\n007;Zoë \n031;🏺\n")
    for words in (("look", "a.csv"), ("try", "a.csv", "trim *"), ("manual", "trim"), ("profile", "a.csv")):
        done = mangler(*words, cwd=work, env={"PYTHONIOENCODING": "ascii"})
        assert done.returncode == 0, said(done)
        done.stdout.decode("ascii")
    assert "Zo\\xeb" in mangler("look", "a.csv", cwd=work, env={"PYTHONIOENCODING": "ascii"}).stdout.decode()
    answer = mangler("look", "a.csv", "--json", cwd=work, env={"PYTHONIOENCODING": "ascii"}).stdout
    assert json.loads(answer)["rows"][1]["cells"] == ["031", "🏺"]


def test_names_that_are_not_utf_8(work: Path) -> None:
    odd = os.fsdecode(b"n\xff.csv")
    (work / odd).write_text("kiln,potter\n 7 ,x\n8\n")
    recipe = os.fsdecode(b"r\xff.mangler")
    (work / recipe).write_text("mangler 1\ntrim *\ntolerate 100%\n")
    for words in (
        ("look", odd),
        ("profile", odd),
        ("draft", odd, "--to", os.fsdecode(b"d\xff.mangler")),
        ("run", recipe, odd, "--to", os.fsdecode(b"o\xff.csv")),
        ("run", recipe, odd, "--to", "o.csv", "--history", os.fsdecode(b"h\xff.db")),
        ("run", recipe, odd, "--rehearse"),
        ("check", recipe, odd),
        ("test", recipe),
        ("format", "--check", recipe),
        ("history", recipe),
        ("try", odd, "trim *", "--recipe", recipe),
    ):
        done = mangler(*words, cwd=work)
        assert done.returncode in (0, 1), (words, said(done))
    aside = (work / os.fsdecode(b"o\xff.aside.csv")).read_text()
    assert aside.splitlines()[1].startswith("n\\xff.csv,2,")
    answer = json.loads(mangler("history", recipe, "--json", cwd=work).stdout)
    assert answer["runs"][-1]["account"]["extract"] == "n\\xff.csv"
    again = mangler("run", recipe, odd, "--to", "new.csv", "--only-new", cwd=work)
    assert again.returncode == 0 and "skipped" in said(again)


@pytest.mark.parametrize(
    "words",
    [
        ("run", "r.mangler", "a.csv", "--rehearse", "--set", os.fsdecode(b"p=\xff")),
        ("look", "a.csv", "--where", os.fsdecode(b'kiln = "\xff"')),
        ("look", "a.csv", "--columns", os.fsdecode(b"\xff")),
        ("look", "a.csv", "--read", os.fsdecode(b'nulls "\xff"')),
        ("try", "a.csv", os.fsdecode(b'nullify "\xff" in kiln')),
        ("try", "--given", os.fsdecode(b'x = "\xff"'), "x"),
    ],
    ids=lambda words: words[0] + words[2],
)
def test_texts_that_are_not_utf_8_are_refused(work: Path, words: tuple[str, ...]) -> None:
    (work / "r.mangler").write_text('mangler 1\nparameter p = "x"\nfill kiln with "{p}"\n')
    done = mangler(*words, cwd=work)
    assert done.returncode == 2 and "not UTF-8" in said(done), said(done)


def test_a_fault_has_its_details_in_a_file(work: Path) -> None:
    code = (
        "import sys; sys.argv = ['mangler', 'look', 'a.csv']\n"
        "import mangler.engine.trial.look as module\n"
        "def broken(*_): raise KeyError('unforeseen')\n"
        "module.look_at = broken\n"
        "from mangler.__main__ import main\nmain()"
    )
    env = {**os.environ, "TMPDIR": str(work)}
    done = subprocess.run([sys.executable, "-c", code], cwd=work, capture_output=True, env=env, check=False)
    assert done.returncode == 70
    lines = said(done).strip().splitlines()
    assert len(lines) == 2 and "a fault of Mangler, not yours: KeyError: 'unforeseen'" in lines[0]
    [details] = work.glob("mangler-fault-*.txt")
    assert str(details) in lines[1]
    assert "Traceback" in details.read_text() and "'look', 'a.csv'" in details.read_text()


def test_a_recipe_that_is_a_pipe_is_read_once(work: Path) -> None:
    done = shell("$M run <(cat r.mangler) a.csv --to o.csv --quiet", work)
    assert done.returncode == 0, said(done)
    assert (work / "o.csv").read_text() == "kiln,potter\n007,Zoë\n"
    os.mkfifo(work / "pipe.mangler")
    (work / "b.csv").write_text("kiln\n 8 \n")
    writer = subprocess.Popen([BASH, "-c", "cat r.mangler > pipe.mangler"], cwd=work)
    several = mangler("run", "pipe.mangler", "a.csv", "b.csv", "--to", "out/", "--workers", "2", cwd=work)
    assert writer.wait(10) == 0 and several.returncode == 0, said(several)


HEAVY = 'mangler 1\nmake b = past(a, "x", -1000)\n'
"""Seconds of work in one call of a library, which Python cannot break off."""


@pytest.mark.parametrize(
    ("number", "code"), [(signal.SIGINT, 130), (signal.SIGTERM, 143), (signal.SIGHUP, 129)]
)
def test_a_signal_ends_what_a_library_computes(work: Path, number: int, code: int) -> None:
    (work / "heavy.mangler").write_text(HEAVY)
    (work / "long.csv").write_text("a\n" + "x" * 2_000_000 + "\n")
    (work / "out").mkdir()
    (work / "out" / "o.csv").write_text("old")
    run = subprocess.Popen(
        [PROGRAM, "run", "heavy.mangler", "long.csv", "--to", "out/o.csv"],
        cwd=work,
        stderr=subprocess.PIPE,
        start_new_session=True,
        preexec_fn=lambda: signal.signal(signal.SIGHUP, signal.SIG_DFL),
    )
    until = time.monotonic() + 30
    while time.monotonic() < until and len(list((work / "out").iterdir())) < 2:
        time.sleep(0.05)
    time.sleep(0.5)
    run.send_signal(number)
    _, stderr = run.communicate(timeout=60)
    assert run.returncode == code
    assert b"what was not delivered yet is as it was before" in stderr and b"Traceback" not in stderr
    assert [path.name for path in (work / "out").iterdir()] == ["o.csv"]
    assert (work / "out" / "o.csv").read_text() == "old"
