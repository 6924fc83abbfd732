"""Consoles: colour only on a terminal, plain and stable output elsewhere."""

from __future__ import annotations

import sys
from collections.abc import Iterable
from functools import cache
from typing import Any

from rich.console import Console, ConsoleOptions, RenderableType
from rich.segment import Segment
from rich.theme import Theme

from mangler.cli.colour import colour_said
from mangler.cli.shown import shown
from mangler.cli.streams import UnreadError

PROGRESS = Theme({f"progress.{part}": "dim" for part in ("data.speed", "percentage", "remaining")})
"""Facts are dim; Rich's own red, magenta and cyan would look like news."""
PLAIN_WIDTH = 120
"""Columns of output that goes to no terminal."""


class Screen(Console):
    """A console for texts that come from outside: whatever is in them, they command no terminal."""

    def on_broken_pipe(self) -> None:
        """Leaves it to `answered` what happens when nobody reads any more; Rich would exit with 1."""
        raise UnreadError

    def print(self, *objects: Any, **settings: Any) -> None:
        """Prints texts with all in them made visible: Rich would drop some control characters without a trace."""
        super().print(*(shown(one) if isinstance(one, str) else one for one in objects), **settings)

    def render(self, renderable: RenderableType, options: ConsoleOptions | None = None) -> Iterable[Segment]:
        """The pieces of what is printed. Only Rich's own commands to the terminal stay as they are."""
        for segment in super().render(renderable, options):
            text, style, control = segment
            yield segment if control else Segment(shown(text), style)


def error_console() -> Console:
    return _console(stderr=True, colour=colour_said())


def answer_console() -> Console:
    return _console(stderr=False, colour=colour_said())


@cache
def _console(stderr: bool, colour: str) -> Console:
    terminal = (sys.stderr if stderr else sys.stdout).isatty()
    forced: dict[str, Any] = {}
    if colour == "always":
        forced = {"force_terminal": True, "color_system": "standard"}
    elif colour:
        forced = {"color_system": None}
    return Screen(
        theme=PROGRESS,
        stderr=stderr,
        highlight=False,
        markup=False,
        emoji=False,
        width=None if terminal else PLAIN_WIDTH,
        **forced,
    )
