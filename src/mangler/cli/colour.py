"""Whether output has colour: what `--color` says, else what the terminal is."""

from __future__ import annotations

import os
from typing import Any

_said = [""]


def colour_when(said: str) -> None:
    """Takes what `--color` says: `always` or `never`. Consoles that are asked for later obey."""
    _said[0] = said


def colour_said() -> str:
    """What `--color` says; empty where it says nothing."""
    return _said[0]


def is_coloured(stream: Any) -> bool:
    """Whether what goes to a stream has colour and weight."""
    if _said[0]:
        return _said[0] == "always"
    return bool(stream.isatty()) and not os.environ.get("NO_COLOR") and os.environ.get("TERM") != "dumb"
