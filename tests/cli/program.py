"""Drives the installed program."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

PROGRAM = Path(sys.executable).with_name("mangler")


def mangler(
    *words: str | Path, cwd: Path, stdin: bytes = b"", env: dict[str, str] | None = None
) -> subprocess.CompletedProcess[bytes]:
    return subprocess.run(
        [PROGRAM, *map(str, words)],
        cwd=cwd,
        input=stdin,
        capture_output=True,
        env={**os.environ, "NO_COLOR": "1", **(env or {})},
        timeout=120,
        check=False,
    )


def said(done: subprocess.CompletedProcess[bytes]) -> str:
    """What was said on standard error, which never is a traceback."""
    text = done.stderr.decode()
    assert "Traceback" not in text, text
    return text
