"""The values that are bound into a query: `:name` in its text, wherever that is no text, name, comment or cast."""

from __future__ import annotations

import re
from collections.abc import Callable

PIECE = re.compile(
    r"""
    [eE]'(?:[^'\\]|\\.|'')*'          # a text with escapes
    | '(?:[^']|'')*'                  # a text
    | "(?:[^"]|"")*"                  # a name
    | --[^\n]*                        # a comment
    | /\*.*?\*/
    | \$(?P<tag>\w*)\$.*?\$(?P=tag)\$ # a text between dollar signs
    | ::                              # a cast
    | :(?P<name>[A-Za-z_]\w*)
    """,
    re.VERBOSE | re.DOTALL,
)


def names_in(query: str) -> list[str]:
    """The names of the values that a query needs, each once, in the order in which they first come."""
    return list(dict.fromkeys(name for one in PIECE.finditer(query) if (name := one.group("name"))))


def with_places(query: str, place: Callable[[int], str]) -> str:
    """The query, for each value what the database writes for the one of this number, from 1."""
    numbers = {name: number for number, name in enumerate(names_in(query), 1)}

    def put(found: re.Match[str]) -> str:
        name = found.group("name")
        return place(numbers[name]) if name else found.group()

    return PIECE.sub(put, query)
