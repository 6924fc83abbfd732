"""Long answers on a terminal go through the user's pager: $PAGER, or less."""

from __future__ import annotations

import os
import shlex
import shutil
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager

from rich.console import Console

USUAL = "less"
LESS = "-FRX"
"""Colours as they are, no page for what fits the screen, and the text stays when less ends."""


@contextmanager
def paged(console: Console) -> Iterator[None]:
    """What is printed to the console in this block is paged where it is higher than the terminal."""
    command = _pager() if sys.stdout.isatty() and sys.stdin.isatty() else []
    if not command:
        yield
        return
    with console.capture() as captured:
        yield
    text = captured.get()
    if text.count("\n") < console.height or not _shown_by(command, text):
        console.file.write(text)
        console.file.flush()


def _pager() -> list[str]:
    """The words of the pager's command; none where there is none, or where the terminal cannot."""
    if os.environ.get("TERM", "dumb") == "dumb":
        return []
    try:
        words = shlex.split(os.environ.get("PAGER", USUAL))
    except ValueError:
        return []
    return words if words and shutil.which(words[0]) else []


def _shown_by(command: list[str], text: str) -> bool:
    environment = {**os.environ, "LESS": os.environ.get("LESS", LESS)}
    try:
        pager = subprocess.Popen(command, stdin=subprocess.PIPE, env=environment)
    except OSError:
        return False
    try:
        pager.communicate(text.encode("utf-8", "replace"))
    except BrokenPipeError:  # it was left before the end
        pass
    except KeyboardInterrupt:  # it is the pager's own key
        pager.wait()
    except BaseException:  # a signal ends both
        pager.terminate()
        raise
    return True
