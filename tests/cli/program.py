"""Drives the installed program."""

from __future__ import annotations

import atexit
import os
import subprocess
import sys
from functools import cache
from pathlib import Path

from tests.cli.forking import Forking

PROGRAM = Path(sys.executable).with_name("mangler")
HARMLESS = {"COLUMNS", "LINES", "NO_COLOR", "TERM"}
"""What the program asks for when it needs it. Python and its libraries look at other words when they start."""
OWN_PROCESSES = ("--workers", "--cluster")


def mangler(
    *words: str | Path, cwd: Path, stdin: bytes = b"", env: dict[str, str] | None = None
) -> subprocess.CompletedProcess[bytes]:
    """The program with these words. It is a process of its own, started anew where the start is what counts."""
    texts = [str(word) for word in words]
    whole = {**os.environ, "NO_COLOR": "1", **(env or {})}
    if set(env or {}) <= HARMLESS and not any(word.startswith(OWN_PROCESSES) for word in texts):
        code, out, err = _forking().run(texts, str(cwd), whole, stdin)
        return subprocess.CompletedProcess([PROGRAM, *texts], code, out, err)
    return subprocess.run(
        [PROGRAM, *texts],
        cwd=cwd,
        input=stdin,
        capture_output=True,
        env=whole,
        timeout=120,
        check=False,
    )


@cache
def _forking() -> Forking:
    started = Forking()
    atexit.register(started.close)
    return started


def said(done: subprocess.CompletedProcess[bytes]) -> str:
    """What was said on standard error, which never is a traceback."""
    text = done.stderr.decode()
    assert "Traceback" not in text, text
    return text
