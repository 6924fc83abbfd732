"""Names of tables and columns in the language of databases."""

from __future__ import annotations


def quoted(name: str) -> str:
    """A name as it is, whatever it holds."""
    return '"' + name.replace('"', '""') + '"'


def free_name(wanted: str, taken: list[str]) -> str:
    """A name that none of the others is, letter case aside."""
    own = {name.casefold() for name in taken}
    while wanted.casefold() in own:
        wanted += "_"
    return wanted
