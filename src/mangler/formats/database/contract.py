"""What a driver of a database is: how tables and queries are read, and tables written.

A new database is one module that is named in `connecting`.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import field
from typing import Any, Protocol, TypeAlias

from mangler.late_dataclass import dataclass

Value: TypeAlias = Any
"""A value that is bound into a query: a text, a number, true, false or None."""


@dataclass(frozen=True)
class Query:
    """The text of a query, in which `:name` stands for a value that is bound."""

    text: str
    values: Mapping[str, Value] = field(default_factory=dict)


class Rows(Protocol):
    """The rows of a table or of a query, which come as they are asked for."""

    @property
    def schema(self) -> Any:
        """The Arrow schema: each column's type is that of all its values."""
        ...

    @property
    def remarks(self) -> Sequence[str]:
        """What is said of columns whose values are read in another type than they have there."""
        ...

    def above(self, column: str, value: Value, inclusive: bool) -> Rows:
        """The rows that have a greater value in a column, or with `inclusive` the same. Texts go by their bytes."""
        ...

    def batches(self) -> Iterator[Any]:
        """All rows as record batches of the schema; to be asked for once."""
        ...


class TableWriter(Protocol):
    """A table that is written: nothing of it is there for others before `commit`."""

    @property
    def rows(self) -> int:
        """How many rows the database has taken; complete after `finish`."""
        ...

    def write(self, records: Any) -> None:
        """A record batch, in the order of the rows."""
        ...

    def finish(self) -> None:
        """All rows are written. What the table's own rules say against them is raised here."""
        ...

    def commit(self) -> None: ...

    def discard(self) -> None:
        """Leaves the table as it was. Does nothing after `commit`."""
        ...


class Connection(Protocol):
    """A connection to a database. One that was opened to read can change nothing there."""

    def tables(self) -> list[str]:
        """The names of its tables and views, as they are written in a recipe."""
        ...

    def table(self, name: str) -> Rows | None:
        """The rows of a table; None where there is none of that name."""
        ...

    def query(self, query: Query) -> Rows:
        """The rows of a query. Raises a Refusal where the database does not take it."""
        ...

    def writer(self, table: str, schema: Any, how: str) -> TableWriter:
        """Begins to write a table. `how` is create, append or replace."""
        ...

    def close(self) -> None: ...
