"""The syntax of patterns: what each character of a pattern in RE2's syntax is part of."""

from __future__ import annotations

import re
from collections.abc import Iterator

from mangler.late_dataclass import dataclass

META = re.compile(r"([\\.+*?()|\[\]{}^$\-])")
"""Characters that mean something in a pattern, each of which means itself after a backslash."""


@dataclass(frozen=True)
class Piece:
    """A part of a pattern that has one meaning.

    `text` is an escape (two characters), a quotation from `\\Q` to `\\E` with both, the opening of a class with a
    closing bracket that is a member of it, a named class such as `[:alpha:]`, or one character. `in_class` says
    whether it is inside square brackets.
    """

    offset: int
    text: str
    in_class: bool


CLASS_OPENING = re.compile(r"\[\^?\]?")
NAMED_CLASS = re.compile(r"\[:\^?\w+:\]")
QUOTATION = re.compile(r"\\Q(.*?)(?:\\E|\Z)", re.DOTALL)


def pieces(pattern: str) -> Iterator[Piece]:
    """The pieces of a pattern in RE2's syntax, in their order; together they are its text."""
    offset, in_class = 0, False
    while offset < len(pattern):
        found: re.Match[str] | None = None
        inside = in_class
        if in_class:
            found = NAMED_CLASS.match(pattern, offset)
            in_class = found is not None or pattern[offset] != "]"
        elif pattern[offset] == "[":
            found = CLASS_OPENING.match(pattern, offset)
            in_class = True
        else:
            found = QUOTATION.match(pattern, offset)
        end = found.end() if found else offset + 1
        if found is None and pattern[offset] == "\\":
            end = min(offset + 2, len(pattern))
        yield Piece(offset, pattern[offset:end], inside)
        offset = end
