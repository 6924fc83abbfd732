"""How a run ends when something ends it: whatever was at the output before still is there."""

from __future__ import annotations

import os
import resource
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from itertools import takewhile
from pathlib import Path
from tempfile import gettempdir

import pytest
from tests.cli.program import PROGRAM, mangler, said

ROWS = 300_000


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text('mangler 1\nread delimiter ";"\ntrim *\n')
    (tmp_path / "big.csv").write_text("kiln;cone\n" + "007; 06 \n012;6\n" * (ROWS // 2))
    (tmp_path / "out").mkdir()
    (tmp_path / "out" / "clean.csv").write_text("old")
    return tmp_path


def start(work: Path, stdin: int | None = None) -> subprocess.Popen[bytes]:
    extract = "-" if stdin is not None else "big.csv"
    return subprocess.Popen(
        [PROGRAM, "run", "r.mangler", extract, "--to", "out/clean.csv"],
        cwd=work,
        stdin=stdin,
        stderr=subprocess.PIPE,
        start_new_session=True,
    )


def wait_for_part(work: Path) -> None:
    """Until the run has begun to write beside the output."""
    until = time.monotonic() + 30
    while time.monotonic() < until:
        if len(list((work / "out").iterdir())) > 1:
            return
        time.sleep(0.01)
    raise AssertionError("the run never began to write")


@pytest.mark.parametrize(
    ("number", "code"), [(signal.SIGINT, 130), (signal.SIGTERM, 143), (signal.SIGKILL, -signal.SIGKILL)]
)
def test_ended_in_the_middle(work: Path, number: int, code: int) -> None:
    read, write = os.pipe()
    run = start(work, read)
    os.close(read)
    os.write(write, b"kiln;cone\n" + b"007; 06 \n" * 12_000)
    wait_for_part(work)
    run.send_signal(number)
    _, stderr = run.communicate(timeout=60)
    os.close(write)
    assert run.returncode == code
    assert b"Traceback" not in stderr
    if number != signal.SIGKILL:
        assert stderr.endswith(b"what was not delivered yet is as it was before.\n")
    assert (work / "out" / "clean.csv").read_text() == "old"
    left = [path.name for path in (work / "out").iterdir() if path.name != "clean.csv"]
    assert len(left) == (1 if number == signal.SIGKILL else 0)
    # The same command again finishes the work, and takes away what a killed run left.
    assert mangler("run", "r.mangler", "big.csv", "--to", "out/clean.csv", cwd=work).returncode == 0
    assert [path.name for path in (work / "out").iterdir()] == ["clean.csv"]
    assert (work / "out" / "clean.csv").read_text().count("\n") == ROWS + 1


def test_a_closed_pipe_ends_quietly(work: Path) -> None:
    done = subprocess.run(
        f"{PROGRAM} run r.mangler big.csv --quiet | head -n 1; exit ${{PIPESTATUS[0]}}",
        shell=True,
        executable=shutil.which("bash"),
        cwd=work,
        capture_output=True,
        timeout=60,
        check=False,
    )
    assert (done.returncode, done.stdout, done.stderr) == (0, b"kiln;cone\n", b"")


def limited(size: int) -> Callable[[], None]:
    return lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (size, size))


@pytest.mark.parametrize("to", [["--to", "out/clean.csv"], ["--to", "-"]])
def test_no_room_for_the_output(work: Path, to: list[str]) -> None:
    done = subprocess.run(
        [PROGRAM, "run", "r.mangler", "big.csv", *to],
        cwd=work,
        capture_output=True,
        preexec_fn=limited(100_000),
        timeout=60,
        check=False,
    )
    assert done.returncode == 3
    assert b"cannot be written: file too large" in done.stderr and b"Traceback" not in done.stderr
    assert [path.name for path in (work / "out").iterdir()] == ["clean.csv"]
    assert (work / "out" / "clean.csv").read_text() == "old"


def test_standard_output_is_full(work: Path) -> None:
    with Path("/dev/full").open("wb") as full:
        done = subprocess.run(
            [PROGRAM, "run", "r.mangler", "big.csv"],
            cwd=work,
            stdout=full,
            stderr=subprocess.PIPE,
            timeout=60,
            check=False,
        )
    assert done.returncode == 3
    assert b"no space left" in done.stderr and b"Traceback" not in done.stderr


AS_NOBODY = """
import os, sys
from mangler.__main__ import main
asked = sys.argv[1:]
def mangler(*words):
    sys.argv = ["mangler", *words]
    try:
        main()
    except SystemExit as ended:
        return ended.code
# Loads all there is, messages too: somebody without rights may not read where Python is installed.
assert mangler("run", "r.mangler", "big.csv", "--to", "out/clean.csv", "--quiet") == 0
assert mangler("run", "r.mangler", "big.csv", "--rehearse") == 0
assert mangler("check", "r.mangler", "gone.csv") == 3
assert mangler("draft", "big.csv", "--to", "r.mangler") == 3
assert mangler("history", "gone.mangler") == 3
assert mangler("history", "r.mangler") == 0
os.setgroups([])
os.setegid(65534)
os.seteuid(65534)
sys.exit(mangler(*asked))
"""


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can become somebody without rights")
@pytest.mark.parametrize(
    ("words", "message"),
    [
        (("run", "r.mangler", "big.csv", "--to", "out/other.csv"), "out/other.csv cannot be written"),
        (("run", "r.mangler", "big.csv", "--to", "closed/a/b.csv"), "closed/a/b.csv cannot be used"),
        (("run", "r.mangler", "closed/x.csv", "none.csv", "--rehearse"), "none.csv does not exist"),
        (("run", "r.mangler", "big.csv", "--rehearse", "--aside", "closed/a.csv"), ""),
        (("check", "r.mangler", "closed/x.csv"), "closed/x.csv cannot be opened"),
        (("check", "r.mangler", "big.csv", "--history", "closed/h.db"), "closed/h.db cannot be used"),
        (("history", "closed/r.mangler"), "closed/r.mangler cannot be used"),
        (("draft", "big.csv", "--to", "closed/r.mangler"), "closed/r.mangler cannot be used"),
    ],
)
def test_what_is_closed_to_us(work: Path, words: tuple[str, ...], message: str) -> None:
    done = as_nobody(work, *words)
    assert b"Traceback" not in done.stderr
    assert (done.returncode, message in said(done)) == (3 if message else 0, True), said(done)[-300:]
    assert [path.name for path in (work / "out").iterdir()] == ["clean.csv"]


def as_nobody(work: Path, *words: str) -> subprocess.CompletedProcess[bytes]:
    """Runs the program as somebody who may read everything but one folder, and write to one folder only."""
    for folder in takewhile(lambda path: path != Path(gettempdir()), (work, *work.parents)):
        folder.chmod(0o755)
    (work / "big.csv").write_text("kiln;cone\n007; 06 \n")
    (work / "closed").mkdir(mode=0o700, exist_ok=True)
    (work / "open").mkdir(exist_ok=True)
    (work / "open").chmod(0o777)
    (work / "out").chmod(0o555)
    return subprocess.run(
        [sys.executable, "-c", AS_NOBODY, *words], cwd=work, capture_output=True, timeout=60, check=False
    )


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can become somebody without rights")
def test_a_history_that_may_only_be_read_stops_no_run(work: Path) -> None:
    words = ("run", "r.mangler", "big.csv", "--to", "open/o.csv")
    done = as_nobody(work, *words)
    assert done.returncode == 4, said(done)
    assert "Delivered, but not noted: the history" in said(done) and "cannot be written" in said(done)
    assert (work / "open" / "o.csv").exists()
    assert as_nobody(work, "history", "r.mangler").returncode == 0


def test_two_runs_at_once_to_one_place_do_not_mix(work: Path) -> None:
    runs = [start(work), start(work)]
    ended = [(run.communicate(timeout=60)[1], run.returncode) for run in runs]
    assert 0 in [code for _, code in ended]
    for stderr, code in ended:  # the second one may have begun when the first had ended
        assert code == 0 or (code == 3 and b"is being written by another run" in stderr), stderr
    assert (work / "out" / "clean.csv").read_text().count("\n") == ROWS + 1
    assert [path.name for path in (work / "out").iterdir()] == ["clean.csv"]


def test_while_one_run_writes_to_a_place_a_second_one_is_refused(work: Path) -> None:
    read, write = os.pipe()
    first = start(work, read)
    os.close(read)
    os.write(write, b"kiln;cone\n" + b"007; 06 \n" * 12_000)
    wait_for_part(work)
    second = mangler("run", "r.mangler", "big.csv", "--to", "out/clean.csv", cwd=work)
    assert second.returncode == 3
    assert "out/clean.csv is being written by another run" in said(second)
    assert (work / "out" / "clean.csv").read_text() == "old"
    os.close(write)
    first.communicate(timeout=60)
    assert first.returncode == 0
    assert (work / "out" / "clean.csv").read_text().count("\n") == 12_001
