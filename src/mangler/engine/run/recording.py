"""Who looks on at a run: at its rows as they are read, and at the moments when its output is put in its place."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Protocol

from mangler.engine.run.summary import Summary
from mangler.formats.contract import PendingOutput
from mangler.table.batch import Batch
from mangler.table.schema import Schema


class Watcher(Protocol):
    """Sees every row that has a place in the table, as it was read."""

    def begin(self, schema: Schema, details: Mapping[str, str]) -> None:
        """How the extract is read."""
        ...

    def observe(self, batch: Batch) -> Any:
        """Called from several threads at once."""
        ...

    def observer(self) -> Callable[[Batch], Any]:
        """What `observe` does, as something that can be sent to another process."""
        ...

    def collect(self, seen: Any) -> None:
        """Called with what `observe` gave, in the order of the rows."""
        ...

    def end(self) -> None:
        """All rows were seen."""
        ...

    def warnings(self) -> list[str]:
        """What the summary is to warn of, once all rows were seen."""
        ...


class Recorder(Protocol):
    def delivering(self, summary: Summary, extract_digest: str | None, put: PendingOutput | None) -> None:
        """All is written and about to be put in its place; what is raised here keeps that from happening.

        The digest is that of the extract's bytes; None where they were not all read. `put` is the output; None
        where it is not a file.
        """
        ...

    def delivered(self) -> None:
        """It is in its place."""
        ...

    def completed(self, summary: Summary) -> None:
        """The account is complete, with the names of the files that were written."""
        ...
