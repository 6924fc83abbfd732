"""What a format of tables is: how a file of it is opened, read by partitions, and written.

The rest of the program knows formats only by what is written here. A new format is one module (or package) that is
named in the registry.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import field
from pathlib import Path
from typing import Any, Protocol, TypeAlias

from mangler.formats.aside import AsideFile
from mangler.formats.dividing import Division, Helpers
from mangler.formats.location import Location
from mangler.formats.partition import Partition as Partition
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.row_notes import RowNotes
from mangler.table.schema import Schema
from mangler.table.settings import ReadSettings, WriteSettings

PARTITION_SIZE = 5 << 20
Encoded: TypeAlias = Any
"""What a sink's `encode` gives and its `write` takes; only that sink knows what it is."""


@dataclass(frozen=True)
class ReadRequest:
    """How an extract is to be read."""

    settings: ReadSettings = field(default_factory=ReadSettings)
    partition_size: int = PARTITION_SIZE
    """About how many bytes of the extract make a partition."""
    rows: int | None = None
    """Only rows up to this number are wanted; None: all."""
    digest: bool = False
    """Whether the bytes of the extract are digested while they are read."""
    memory: int | None = None
    """Bytes that may be taken; None: half of what the machine has."""
    ignored: tuple[str, ...] = ()
    """Clauses of `read` that mean nothing for the extract's format."""
    survey: bool = False
    """Whether the place of the table in the file is detected, and columns without a name get one. That is for
    looking at a file; a run reads as its recipe says."""
    helpers: Helpers | None = None
    """Those who help to open it; None: it is opened alone."""
    only_new: bool = False
    """Whether only rows of a table are wanted that were not delivered before."""
    delivered: Mapping[str, Any] | None = None
    """What the source noted of the rows that were delivered last."""
    known: Any = None
    """What its division knew of it when it was opened elsewhere."""


@dataclass(frozen=True)
class UnfitRow:
    """A row that does not fit the table, and why."""

    row: int
    reason: str


@dataclass(frozen=True)
class ParsedBatch:
    """The rows of a partition as columns, and the rows that do not fit the table."""

    batch: Batch
    unfit: RowNotes = field(default_factory=RowNotes)
    """Rows that do not fit the table, and why."""
    nulls_made: int = 0
    """Cells that held a null word."""
    padded: int = 0
    """Rows with too few fields, filled up with nulls."""
    short: int = 0
    """Unfit rows that have too few fields."""

    def unfit_rows(self, first: int = 1, last: int | None = None, most: int | None = None) -> list[UnfitRow]:
        """The unfit rows in a range of rows, at most so many."""
        rows = self.unfit.rows
        flags = rows >= first
        if last is not None:
            flags &= rows <= last
        notes = self.unfit.only(flags)
        return [UnfitRow(row, reason) for row, reason in (notes if most is None else notes.first(most))]


@dataclass(frozen=True)
class Explanation:
    """Why columns may be missing: the way in which the extract was read."""

    message: str
    advice: str
    clause: str
    """The clause of `read` that says so."""
    better: ReadSettings
    """Settings under which the extract has more columns."""


class Source(Protocol):
    """An opened extract: its columns are known, its rows are not read yet."""

    @property
    def name(self) -> str:
        """The extract as messages name it."""
        ...

    @property
    def schema(self) -> Schema: ...

    @property
    def detected(self) -> Mapping[str, str]:
        """What the recipe did not say about reading, in words for the summary."""
        ...

    @property
    def details(self) -> Mapping[str, str]:
        """How the extract is read, said or detected: compared from run to run. `delimiter`, `encoding`, and others."""
        ...

    def partitions(self) -> Iterator[Partition]:
        """All rows, in their order; to be asked for once."""
        ...

    @property
    def division(self) -> Division | None:
        """How it is divided into pieces that others can read; None where its format is read from start to end."""
        ...

    def read(self, partition: Partition) -> ParsedBatch:
        """The rows of one of its partitions. Called from several threads at once."""
        ...

    @property
    def read_as(self) -> ReadSettings:
        """How it is read, with all that was detected: settings that leave nothing open."""
        ...

    @property
    def names_given(self) -> Sequence[str]:
        """Names of columns that have none in the extract, or that of another column."""
        ...

    @property
    def was_set_aside(self) -> bool:
        """Whether its rows are ones that an earlier run set aside."""
        ...

    @property
    def layout_found(self) -> bool:
        """Whether a survey found what a run would not detect by itself."""
        ...

    def explain_missing(self) -> Explanation | None:
        """Why columns may be missing, or rows do not fit; None where there is no reason for another way to read."""
        ...

    def remarks(self) -> list[str]:
        """What the summary says about reading; known once all partitions were read."""
        ...

    def digest(self) -> str | None:
        """The digest of the extract's bytes; None where it was not asked for, or not all were read."""
        ...

    @property
    def newest(self) -> Mapping[str, Any] | None:
        """What is noted of a table that grows, for the next run; None for everything else."""
        ...

    def aside_file(self, path: Path | None) -> AsideFile:
        """Where its rows are set aside, in its own format; None: they are only counted."""
        ...

    def close(self) -> None: ...


@dataclass(frozen=True)
class PendingOutput:
    """A file about to be put in its place: until then it has a name of its own, and this inode."""

    path: Path
    inode: int


class Sink(Protocol):
    """Where cleaned rows go."""

    @property
    def path(self) -> Path | None:
        """The file that is written; None where it is not a file."""
        ...

    @property
    def rows_written(self) -> int:
        """How many rows the written bytes hold, counted in these bytes; complete after `finish`."""
        ...

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        """Begins the output. What the settings leave open is as in the source `like`, where that has the format.

        The batches come in the types of `arrow_type`. A type that the format cannot hold is refused here.
        """
        ...

    def encode(self, batch: Batch) -> Encoded:
        """Called from several threads at once; what it gives is handed to `write` in the order of the rows."""
        ...

    def write(self, encoded: Encoded) -> None: ...

    def finish(self, like: Source) -> None:
        """All rows are written, and all rows of the source `like` were read."""
        ...

    def remarks(self) -> list[str]:
        """What the summary says about writing; known after `open`."""
        ...

    def warnings(self) -> list[str]:
        """What is lost or risky in what was written; known after `finish`."""
        ...

    def pending(self) -> PendingOutput | None:
        """The file that `commit` puts in its place; None where it is not a file."""
        ...

    def commit(self) -> None:
        """Puts everything in its place."""
        ...

    def discard(self) -> None:
        """Leaves the place as it was. Does nothing after `commit`."""
        ...


class Format(Protocol):
    @property
    def name(self) -> str:
        """As messages name it: "delimited text"."""
        ...

    @property
    def words(self) -> frozenset[str]:
        """As recipes name it in `read format` and `write format`."""
        ...

    @property
    def suffixes(self) -> Sequence[str]:
        """Endings of the names of files of this format, in lower case: ".csv"."""
        ...

    @property
    def read_clauses(self) -> frozenset[str]:
        """The clauses of `read` that mean something for it."""
        ...

    @property
    def write_clauses(self) -> frozenset[str]:
        """The clauses of `write` that mean something for it."""
        ...

    @property
    def most_rows(self) -> int | None:
        """How many rows a file of it has a place for; None for any number."""
        ...

    @property
    def is_written(self) -> bool:
        """Whether there are sinks of it."""
        ...

    def recognises(self, location: Location) -> bool:
        """Whether the content is of this format, seen from its first bytes or the directory of its file."""
        ...

    def open(self, location: Location, request: ReadRequest) -> Source:
        """Opens an extract up to where its columns are known; the source closes the location."""
        ...

    def parts(self, location: Location) -> Sequence[str]:
        """The names of the tables in a file that can hold several; none for other formats."""
        ...

    def sink(self, path: Path | None, rehearse: bool) -> Sink:
        """An output at a path; None: standard output. With `rehearse` everything is done except the writing."""
        ...
