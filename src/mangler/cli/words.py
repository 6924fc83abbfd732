"""The words of the command line: without secrets, and as they can be given again."""

from __future__ import annotations

import sys

from mangler.addresses import without_password


def without_passwords(word: str) -> str:
    """A word of the command line; in the address of a database, also behind `--to=`, nobody sees the password."""
    option, equals, address = word.partition("=") if word.startswith("--") else ("", "", word)
    return f"{option}{equals}{without_password(address)}" if address else word


def own_command() -> str:
    """The command that is being run, without secrets."""
    import shlex

    from mangler.cli.shown import shown

    return shown(shlex.join(["mangler", *(without_passwords(word) for word in sys.argv[1:])]))
