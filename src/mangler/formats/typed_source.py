"""What the sources of formats with types of their own have in common: rows come as Arrow's record batches."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import field, replace
from pathlib import Path
from typing import Any, Protocol, TypeAlias

import numpy as np
import pyarrow as pa

from mangler.formats.aside import ASIDE_COLUMNS, AsideFile
from mangler.formats.contract import Explanation, ParsedBatch, ReadRequest
from mangler.formats.dividing import Division
from mangler.formats.guard import without_guard
from mangler.formats.header_names import column_names
from mangler.formats.ignored_clauses import ignored_clauses
from mangler.formats.null_words import with_null_words
from mangler.formats.partition import Partition
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.values.row_text import row_texts
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch, RowNumbers
from mangler.table.read_words import MOST_NAMED
from mangler.table.row_notes import RowNotes
from mangler.table.schema import Schema
from mangler.table.settings import ReadSettings
from mangler.table.stored_types import file_column, taken, to_worked

COMMON_CLAUSES = frozenset({"format", "called", "names completed", "nulls", "guard formulas"})
"""The clauses of `read` that every format with types of its own knows."""
Records: TypeAlias = Any
"""A pyarrow RecordBatch."""


class Place(Protocol):
    """Where a source is: a file, or what stands for one."""

    @property
    def name(self) -> str: ...

    @property
    def compression(self) -> str | None: ...

    @property
    def packed_in(self) -> str: ...

    def digest(self) -> str | None: ...

    def close(self) -> None: ...


@dataclass(frozen=True)
class TypedPartition:
    """Rows that are decoded already. `records` has the file's own columns in its own types, without those of an
    aside file."""

    index: int
    first_row: int
    records: Records
    bytes_read: int
    is_last: bool
    file: str
    unfit: RowNotes = field(default_factory=RowNotes)
    """Rows of this partition that `records` does not have: they do not fit the table."""
    raw: Callable[[RowNumbers], ColumnArray] | None = None
    """The rows as they are in the extract, where that is text."""
    lines: Callable[[RowNumbers], RowNumbers] | None = None
    """The physical lines of rows; None for formats without lines."""

    @property
    def row_count(self) -> int:
        return int(self.records.num_rows) + len(self.unfit)

    @property
    def rows(self) -> RowNumbers:
        """The numbers of the rows that fit."""
        every = np.arange(self.first_row, self.first_row + self.row_count)
        return every if not len(self.unfit) else np.delete(every, self.unfit.rows - self.first_row)

    def locate(self, rows: RowNumbers) -> RowNumbers | None:
        return None if self.lines is None else self.lines(rows)

    def line_of(self, row: int) -> int:
        found = self.locate(np.array([row]))
        return row if found is None else int(found[0])

    def records_of(self, rows: RowNumbers) -> Records:
        """These rows, which all fit."""
        indices = from_numpy(np.searchsorted(self.rows, rows))
        names = self.records.schema.names
        return pa.RecordBatch.from_arrays(
            [taken(column, indices) for column in self.records.columns], names=names
        )

    def as_read(self, rows: RowNumbers) -> ColumnArray:
        return self.raw(rows) if self.raw is not None else row_texts(self.records_of(rows))


@dataclass(frozen=True)
class Reading:
    """How a source reads: its batches in order, each with the bytes of the file up to its end."""

    schema: Any
    """The Arrow schema of the file, without the columns of an aside file."""
    partitions: Callable[[], Iterator[TypedPartition]]
    close: Callable[[], None] = lambda: None
    nested: frozenset[str] = frozenset()
    """Names of objects whose values are columns with dotted names."""
    division: Division | None = None
    """How the file is divided; None where it is read from its start only."""
    newest: Callable[[], Mapping[str, Any] | None] = lambda: None
    """What is noted of a table that grows, when its rows were read."""


@dataclass(frozen=True)
class TypedSource:
    """An opened extract of a format with types of its own."""

    name: str
    format_name: str
    schema: Schema
    reading: Reading
    settings: ReadSettings
    """As they were said."""
    names_given: tuple[str, ...]
    details: Mapping[str, str]
    detected: Mapping[str, str]
    location: Place
    make_aside: Callable[[Path | None, TypedSource], AsideFile]
    was_set_aside: bool = False
    found: tuple[str, ...] = ()
    """Remarks that are known from the start."""
    later: Callable[[], list[str]] = list
    """Remarks that are known when all rows were read."""
    rows: int | None = None
    """Only rows up to this number are wanted."""
    read_as: ReadSettings = field(default_factory=ReadSettings)
    layout_found: bool = False

    def partitions(self) -> Iterator[TypedPartition]:
        return self.reading.partitions()

    def read(self, partition: Partition) -> ParsedBatch:
        assert isinstance(partition, TypedPartition)
        records, rows, unfit = partition.records, partition.rows, partition.unfit
        if self.rows is not None and partition.first_row + partition.row_count - 1 > self.rows:
            rows = rows[: int(np.searchsorted(rows, self.rows, side="right"))]
            records, unfit = records.slice(0, len(rows)), unfit.only(unfit.rows <= self.rows)
        arrays = [
            to_worked(array, column)
            for array, column in zip(records.columns, self.schema.columns, strict=True)
        ]
        if self.settings.guard_formulas:
            arrays = [without_guard(array) for array in arrays]
        arrays, nulls = with_null_words(arrays, self.settings.nulls)
        return ParsedBatch(Batch(tuple(arrays), rows, partition), unfit, nulls)

    @property
    def division(self) -> Division | None:
        return self.reading.division

    @property
    def newest(self) -> Mapping[str, Any] | None:
        return self.reading.newest()

    def explain_missing(self) -> Explanation | None:
        return None

    def remarks(self) -> list[str]:
        return [*self.found, *self.later()]

    def digest(self) -> str | None:
        return self.location.digest()

    def aside_file(self, path: Path | None) -> AsideFile:
        return self.make_aside(path, self)

    def close(self) -> None:
        self.reading.close()
        self.location.close()


def typed_source(
    location: Place,
    request: ReadRequest,
    format_name: str,
    reading: Reading,
    make_aside: Callable[[Path | None, TypedSource], AsideFile],
    *,
    details: Mapping[str, str] | None = None,
    detected: Mapping[str, str] | None = None,
    was_set_aside: bool = False,
    remarks: Iterable[str] = (),
    later: Callable[[], list[str]] = list,
    read_as: ReadSettings | None = None,
) -> TypedSource:
    """The source of a file whose rows come as record batches; its columns are named as the recipe says."""
    settings = request.settings
    own = list(reading.schema.names)
    names, given, read_as = _named(own, settings, read_as or settings, location.name, request.survey)
    columns = tuple(file_column(name, kind) for name, kind in zip(names, reading.schema.types, strict=True))
    found = [*ignored_clauses(request, format_name), *remarks]
    said = {"format": format_name} if settings.format is None else {}
    packing = {"compression": location.compression} if location.compression else {}
    packing |= {"archive": location.packed_in} if location.packed_in else {}
    told = {"names": f"{', '.join(given[:4])} given by Mangler"} if given else {}
    return TypedSource(
        location.name,
        format_name,
        Schema(columns),
        reading,
        settings,
        given,
        {"format": format_name, **packing, **(details or {})},
        {**said, **packing, **(detected or {}), **told},
        location,
        make_aside,
        was_set_aside,
        tuple(found),
        later,
        request.rows,
        read_as,
        read_as != settings,
    )


def _named(
    own: Sequence[str], settings: ReadSettings, read_as: ReadSettings, name: str, surveyed: bool
) -> tuple[tuple[str, ...], tuple[str, ...], ReadSettings]:
    """The names of the columns, those that were given to columns without one, and the settings that give them."""
    if not surveyed or settings.called is not None:
        names = column_names(own, settings, name)
    else:
        names = column_names(own, replace(settings, names_completed=True), name)
        if list(names) != list(own) and not settings.names_completed:
            completed = len(names) > MOST_NAMED
            read_as = replace(read_as, names_completed=True) if completed else replace(read_as, called=names)
    given = () if settings.called is not None else tuple(n for n, o in zip(names, own, strict=True) if n != o)
    return names, given, read_as


def is_aside(names: Sequence[str]) -> bool:
    """Whether the columns are those of a file of rows set aside."""
    return tuple(names[: len(ASIDE_COLUMNS)]) == ASIDE_COLUMNS
