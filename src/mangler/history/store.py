"""Past runs in an SQLite file, safe with several runs at once and after a kill at any moment.

A run that is about to put its output in its place says so first, with the inode that the output has. Whoever opens
the history later can see from the file that is there whether it came to that.
"""

from __future__ import annotations

import contextlib
import json
import os
import sqlite3
from collections.abc import Iterator
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import Any

from mangler.file_names import readable
from mangler.formats.delivery import is_being_delivered
from mangler.history.growing import made_by
from mangler.history.stored import (
    DELIVERED,
    REFUSED,
    as_stored,
    has_shape,
    is_fingerprint,
    object_of,
    path_of,
    text_of,
)
from mangler.language.mistake import Refusal, file_trouble, reason
from mangler.late_dataclass import dataclass

FOLDER, FILE = ".mangler", "history.db"
VERSION = 1
LAST = 10
"""So many of the last runs an extract is compared with."""
PATIENCE = 60.0
"""Seconds that a run waits for another one to let go of the file."""
NOTED_WITHIN = 2.0
"""Seconds. An output is written before its run is noted, to the second: one changed later was changed by others."""
LARGEST_NUMBER = 2**63 - 1
LARGEST_PROCESS = 2**31 - 1
READ_ONLY = (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_PERM)
TABLE = """
CREATE TABLE run (
    number INTEGER PRIMARY KEY AUTOINCREMENT,
    state TEXT NOT NULL,
    started TEXT NOT NULL,
    recipe TEXT NOT NULL,
    recipe_digest TEXT NOT NULL,
    extract TEXT NOT NULL,
    extract_digest TEXT,
    output TEXT,
    inode INTEGER,
    process INTEGER NOT NULL,
    account TEXT NOT NULL,
    series TEXT,
    fingerprint TEXT
)
"""
INDEXES = (
    "CREATE INDEX IF NOT EXISTS by_content ON run (recipe, extract_digest)",
    "CREATE INDEX IF NOT EXISTS by_series ON run (recipe, series, number)",
    "CREATE INDEX IF NOT EXISTS by_output ON run (output, number)",
    "CREATE INDEX IF NOT EXISTS by_state ON run (state)",
)
"""So that one more run costs the same, however many are noted."""


class State(StrEnum):
    DELIVERING = "delivering"
    """Its output is about to be put in its place."""
    DELIVERED = "delivered"
    REFUSED = "refused"
    BROKEN_OFF = "broken off"
    """It ended before its output was in its place."""
    UNKNOWN = "unknown"
    """What is noted is damaged, or of another version of Mangler."""


class CannotBeWrittenError(Refusal):
    """The history can be read, and nothing can be noted in it."""


@dataclass(frozen=True)
class PastRun:
    """One run. `account` is what `mangler run --json` said of the extract."""

    number: int
    state: State
    """With `account` of the shape that goes with it."""
    started: str
    """In UTC, ISO 8601."""
    recipe: str
    recipe_digest: str
    extract: str
    extract_digest: str | None
    output: str | None
    account: dict[str, Any]

    def to_json(self) -> dict[str, Any]:
        """The documented shape of `mangler history --json`, one run of it."""
        return {
            "run": self.number,
            "state": str(self.state),
            "started": self.started,
            "recipe": self.recipe,
            "recipe_digest": self.recipe_digest,
            "extract_digest": self.extract_digest,
            "account": self.account,
        }


def beside(recipe: Path) -> Path:
    """Where a recipe's history is, by default."""
    return recipe.parent / FOLDER / FILE


class History:
    """An opened history. Every method is one transaction."""

    def __init__(self, path: Path, connection: sqlite3.Connection) -> None:
        self.path = path
        self._connection = connection

    @classmethod
    def open(cls, path: Path, make: bool = True) -> History:
        """Opens the history at `path`; makes it, and its folder, unless `make` is false."""
        if not path.exists():
            if not make:
                raise file_trouble(
                    "no-such-file",
                    f"there is no history {path}",
                    "Every mangler run that delivers writes one.",
                )
            try:
                path.parent.mkdir(exist_ok=True)
            except OSError as error:
                raise file_trouble(
                    "history-not-writable", f"the history {path} cannot be made: {reason(error)}"
                ) from None
        try:
            connection = sqlite3.connect(path, timeout=PATIENCE, isolation_level=None)
            connection.text_factory = lambda text: text.decode("utf-8", "backslashreplace")
            history = cls(path, connection)
            history._prepare()
        except (sqlite3.Error, OSError) as error:
            raise _trouble(path, error) from None
        return history

    def close(self) -> None:
        self._connection.close()

    def begin(
        self,
        recipe: str,
        recipe_digest: str,
        extract: str,
        extract_digest: str | None,
        output: str | None,
        inode: int | None,
        account: dict[str, Any],
        state: State,
        series: str = "",
        fingerprint: dict[str, Any] | None = None,
    ) -> int:
        """Notes a run; its number. The fingerprint is one of those of the same series of extracts."""
        now = datetime.now(UTC).isoformat(timespec="seconds")
        row = (state, now, recipe, recipe_digest, readable(extract), extract_digest)
        process = (as_stored(output), inode, os.getpid())
        texts = [None if one is None else json.dumps(one) for one in (account, fingerprint)]
        with self._writing() as connection:
            done = connection.execute(
                "INSERT INTO run (state, started, recipe, recipe_digest, extract, extract_digest, output, inode,"
                " process, account, fingerprint, series) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                (*row, *process, *texts, readable(series)),
            )
        assert done.lastrowid is not None
        return done.lastrowid

    def end(self, number: int, state: State, account: dict[str, Any] | None = None) -> None:
        """Notes how a run ended."""
        with self._writing() as connection:
            connection.execute("UPDATE run SET state = ? WHERE number = ?", (state, number))
            if account is not None:
                connection.execute(
                    "UPDATE run SET account = ? WHERE number = ?", (json.dumps(account), number)
                )

    def runs(self, recipe: str | None = None, most: int = 100) -> list[PastRun]:
        """The last runs, of one recipe or of all, the latest first."""
        where, values = ("WHERE recipe = ?", (recipe, most)) if recipe else ("", (most,))
        return self._select(f"{where} ORDER BY number DESC LIMIT ?", values)

    def run(self, number: int) -> PastRun | None:
        """The run of this number; None where there is none."""
        if number > LARGEST_NUMBER:
            return None
        found = self._select("WHERE number = ?", (number,))
        return found[0] if found else None

    def what_is_at(self, output: Path) -> str:
        """What a file is that a run is about to replace, in words: the output of an earlier run, as far as is known."""
        other = "a file that was there"
        found = output.stat()
        try:
            row = self._connection.execute(
                "SELECT number, inode, started FROM run WHERE output = ? AND state = ? ORDER BY number DESC LIMIT 1",
                (as_stored(str(output)), State.DELIVERED),
            ).fetchone()
        except sqlite3.Error as error:
            raise _trouble(self.path, error) from None
        if row is None or row[1] != found.st_ino:
            return other
        try:
            noted = datetime.fromisoformat(text_of(row[2])).timestamp()
        except ValueError:
            return other
        changed = ", which was changed since" if found.st_mtime > noted + NOTED_WITHIN else ""
        return f"the output of run {row[0]}{changed}"

    def delivery_of(
        self, recipe: str, extract_digest: str, since: int = 0, output: str = ""
    ) -> PastRun | None:
        """The last run of a recipe, from a number on, that delivered an extract of this content.

        With `output`, to that file.
        """
        found = self._select(
            "WHERE recipe = ? AND extract_digest = ? AND state = ? AND number >= ? AND (? = '' OR output = ?)"
            " ORDER BY number DESC LIMIT 1",  # whatever its account says
            (recipe, extract_digest, State.DELIVERED, since, as_stored(output), as_stored(output)),
        )
        return found[0] if found else None

    def last_delivery(self, recipe: str, series: str, extract: str) -> PastRun | None:
        """The last run of a recipe that delivered an extract of this name, which is of this series."""
        found = self._select(
            "WHERE recipe = ? AND series = ? AND extract = ? AND state = ? ORDER BY number DESC LIMIT 1",
            (recipe, series, extract, State.DELIVERED),
        )
        return found[0] if found else None

    def made_by(self, output: str) -> int:
        """The first of the runs whose rows are in an output; 0 where none is known."""
        try:
            return made_by(self._connection, as_stored(output), State.DELIVERED)
        except sqlite3.Error as error:
            raise _trouble(self.path, error) from None

    def has_older_digests(self, recipe: str, mark: str) -> bool:
        """Whether a digest of an extract of this recipe is without the mark that digests have now.

        Those are hexadecimal, and so before the mark in the order of the index.
        """
        return bool(self._select("WHERE recipe = ? AND extract_digest < ? LIMIT 1", (recipe, mark)))

    def fingerprints(self, recipe: str, series: str, most: int = LAST) -> list[dict[str, Any]]:
        """Those of the last extracts of a series that a recipe delivered, each content once, the latest first."""
        query = (
            "SELECT fingerprint, coalesce(extract_digest, number) FROM run WHERE recipe = ? AND series = ?"
            " AND state = ? AND fingerprint IS NOT NULL ORDER BY number DESC"
        )
        found: dict[Any, dict[str, Any]] = {}
        try:
            for text, content in self._connection.execute(query, (recipe, readable(series), State.DELIVERED)):
                if content not in found and is_fingerprint(one := object_of(text)):
                    found[content] = one
                if len(found) == most:  # the runs before these are many, and not looked at
                    break
        except sqlite3.Error as error:
            raise _trouble(self.path, error) from None
        return list(found.values())

    def _select(self, rest: str, values: tuple[Any, ...]) -> list[PastRun]:
        columns = "number, state, started, recipe, recipe_digest, extract, extract_digest, output, account"
        try:
            rows = self._connection.execute(f"SELECT {columns} FROM run {rest}", values).fetchall()
        except sqlite3.Error as error:
            raise _trouble(self.path, error) from None
        return [_past_run(row) for row in rows]

    @contextlib.contextmanager
    def _writing(self) -> Iterator[sqlite3.Connection]:
        """A transaction that waits for others, and lasts through a power cut."""
        connection = self._connection
        try:
            connection.execute("BEGIN IMMEDIATE")
            try:
                yield connection
            except BaseException:
                connection.execute("ROLLBACK")
                raise
            connection.execute("COMMIT")
        except sqlite3.Error as error:
            raise _trouble(self.path, error, writing=True) from None

    def _prepare(self) -> None:
        """Makes the table where the file is new, and settles what runs that were killed left open."""
        version = self._connection.execute("PRAGMA user_version").fetchone()[0]
        if version > VERSION:
            raise file_trouble(
                "newer-version",
                f"the history {self.path} was written by a later Mangler",
                "Use that, or another --history.",
            )
        if version == 0:
            with self._writing() as connection:
                if connection.execute("PRAGMA user_version").fetchone()[0] == 0:
                    if connection.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]:
                        raise file_trouble(
                            "not-a-history",
                            f"{self.path} is a database, and no history of Mangler",
                            "Name another --history.",
                        )
                    connection.execute(TABLE)
                    connection.execute(f"PRAGMA user_version = {VERSION}")
        with contextlib.suppress(sqlite3.Error):  # without them it is slower, and may only be read
            for index in INDEXES:
                self._connection.execute(index)
        with contextlib.suppress(Refusal):  # what cannot be written stays to be settled
            self._settle()

    def _settle(self) -> None:
        """Of runs that were about to deliver and are no more, the file that is there says how they ended."""
        query = "SELECT number, output, inode, process FROM run WHERE state = ?"
        for number, output, inode, process in self._connection.execute(query, (State.DELIVERING,)).fetchall():
            path = path_of(output)
            if path is None:
                goes_on = _lives(process)
            else:  # looked at before the place is: it is put there in between, not taken away
                goes_on = is_being_delivered(Path(path), inode)
                if _inode_of(path) == inode:
                    self.end(number, State.DELIVERED)
                    continue
            if not goes_on:
                self.end(number, State.BROKEN_OFF)


def _past_run(row: tuple[Any, ...]) -> PastRun:
    number, state, *texts, output, account = row
    shown = object_of(account)
    known = State(state) if state in set(State) else State.UNKNOWN
    if known is State.DELIVERED and not has_shape(shown, DELIVERED):
        known = State.UNKNOWN
    if known in (State.REFUSED, State.BROKEN_OFF) and not has_shape(shown, REFUSED):
        known = State.UNKNOWN
    started, recipe, recipe_digest, extract = map(text_of, texts[:4])
    extract_digest = None if texts[4] is None else text_of(texts[4])
    return PastRun(
        number, known, started, recipe, recipe_digest, extract, extract_digest, path_of(output), shown
    )


def _inode_of(path: str) -> int | None:
    try:
        return Path(path).stat().st_ino
    except OSError:
        return None


def _lives(process: int) -> bool:
    """Whether there is a process of this number: one of another name may have taken it, and is waited for in vain."""
    if not isinstance(process, int) or not 0 < process <= LARGEST_PROCESS:
        return False
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def _trouble(path: Path, error: Exception, writing: bool = False) -> Refusal:
    if type(error) is sqlite3.DatabaseError:
        return file_trouble(
            "not-a-history",
            f"{path} is not a history of Mangler: {error}",
            "Name another --history, or move it away.",
        )
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF
    if writing and code in READ_ONLY:
        message = file_trouble(
            "history-not-writable",
            f"the history {path} cannot be written",
            "Name another with --history PATH.",
        )
        return CannotBeWrittenError(message.mistakes, message.code)
    why = "the disk is full" if code == sqlite3.SQLITE_FULL else str(error)
    return file_trouble(
        "history-not-usable", f"the history {path} cannot be used: {why}", "Name another with --history PATH."
    )
