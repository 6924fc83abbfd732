"""Names of files as text that can be written and shown, whatever bytes the system has in them."""

from __future__ import annotations

import os
from pathlib import Path


def readable(path: str | Path) -> str:
    """The name as text. A byte that is not UTF-8 becomes an escape, as in `n\\xff.csv`."""
    return os.fsencode(path).decode("utf-8", "backslashreplace")
