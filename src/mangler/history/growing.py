"""Outputs that grow: which runs' rows are in a file."""

from __future__ import annotations

import sqlite3

MADE = (
    "SELECT max(number) FROM run WHERE output = ? AND state = ?"
    " AND coalesce(json_extract(account, '$.appended'), 0) = 0"
)
"""The last run that made an output anew."""
FIRST = (
    "SELECT min(number) FROM run WHERE output = ? AND inode = (SELECT inode FROM run WHERE number = ?)"
    " AND number > coalesce((SELECT max(number) FROM run WHERE output = ? AND number < ? AND state = ?"
    " AND inode <> (SELECT inode FROM run WHERE number = ?)), 0)"
)
"""The first run of the same command: each extract has a run of its own, and all deliver the same file."""


def made_by(connection: sqlite3.Connection, output: str | bytes | None, delivered: str) -> int:
    """The first of the runs whose rows are in an output: later ones appended to it. 0 where none is known."""
    last = connection.execute(MADE, (output, delivered)).fetchone()[0]
    if last is None:
        return 0
    return int(connection.execute(FIRST, (output, last, output, last, delivered, last)).fetchone()[0])
