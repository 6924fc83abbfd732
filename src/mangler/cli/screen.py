"""Consoles: colour only on a terminal, plain and stable output elsewhere."""

from __future__ import annotations

import sys
from functools import cache

from rich.console import Console

PLAIN_WIDTH = 120
"""Columns of output that goes to no terminal."""


class Screen(Console):
    """A console that leaves it to `answering` what happens when nobody reads any more; Rich would exit with 1."""

    def on_broken_pipe(self) -> None:
        raise BrokenPipeError


@cache
def error_console() -> Console:
    return _console(stderr=True)


@cache
def answer_console() -> Console:
    return _console(stderr=False)


def _console(stderr: bool) -> Console:
    terminal = (sys.stderr if stderr else sys.stdout).isatty()
    return Screen(
        stderr=stderr, highlight=False, markup=False, emoji=False, width=None if terminal else PLAIN_WIDTH
    )
