"""What a recipe says of the file it reads and the file it writes. None: not said, so found out or as read."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class ReadSettings:
    delimiter: str | None = None
    quote: str = '"'
    encoding: str | None = None
    """Python's name of the codec."""
    header_row: int = 1
    """Which row, after the skipped lines, holds the names; 0 when there is no header."""
    called: tuple[str, ...] | None = None
    skip: int = 0
    skip_last: int = 0
    escape: str = ""
    comment: str = ""
    nulls: tuple[str, ...] = ()
    ragged: str = "aside"
    """`aside`, `stop`, or `pad`: what becomes of rows with too few or too many fields."""
    line: int = 0
    """The line of the read statement in the recipe, 0 when it has none."""


@dataclass(frozen=True)
class WriteSettings:
    delimiter: str | None = None
    quotes: str = "sparing"
    """`sparing`: only cells that need quotes get them; `always`: every cell that is not null."""
    nulls: str = ""
    line_end: str | None = None
    """`lf` or `crlf`"""
    encoding: str | None = None
    """Python's name of the codec; UTF-8 when it is not said."""
