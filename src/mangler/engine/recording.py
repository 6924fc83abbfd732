"""Who looks on at a run: at its rows as they are read, and at the moments when its output is put in its place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from mangler.engine.summary import Summary
from mangler.table.batch import Batch


@dataclass(frozen=True)
class Put:
    """A file about to be put in its place: until that is done it stands under a name of its own, as this inode."""

    path: Path
    inode: int


class Watcher(Protocol):
    """Sees every row that has a place in the table, as it was read."""

    def begin(self, names: Sequence[str], delimiter: str, encoding: str) -> None:
        """How the extract is read."""
        ...

    def look(self, batch: Batch) -> Any:
        """Called from several threads at once."""
        ...

    def note(self, seen: Any) -> None:
        """Called with what `look` gave, in the order of the rows."""
        ...

    def end(self) -> None:
        """All rows were seen."""
        ...

    def warnings(self) -> list[str]:
        """What the summary is to warn of, once all rows were seen."""
        ...


class Recorder(Protocol):
    def delivering(self, summary: Summary, extract_digest: str | None, put: Put | None) -> None:
        """All is written and about to be put in its place; what is raised here keeps that from happening.

        The digest is that of the extract's bytes; None where they were not all read. `put` is the output; None
        where it is no file.
        """
        ...

    def delivered(self) -> None:
        """It stands in its place."""
        ...

    def completed(self, summary: Summary) -> None:
        """The account is complete, with the names of the files that were written."""
        ...
