"""The fields of records where they were read, and columns of them that are made when somebody asks for their cells.

Only the compiled kernels give such fields. Columns that nobody asks for are written from there, and never made.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from typing import Any, NamedTuple, TypeAlias, overload

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.taking import Places, take
from mangler.kernels.text.openings import RISKY_OR_GUARDED
from mangler.kernels.text.text_view import TextArray, TooLargeError
from mangler.late_dataclass import dataclass

PLACE = np.uint32(0x3FFFFFFF)
"""The bits of a place without those that say what quotes a field has."""
RISKY_TABLE = RISKY_OR_GUARDED.astype(np.uint8)
"""What the kernel flags: a sign is risky only before something else."""
RISKY_TABLE[list(b"+-")] = 2
NO_ROWS = np.zeros(0, np.int64)


class FieldFacts(NamedTuple):
    """What is known of a field of many records without its column."""

    size: int
    """Bytes of the cells, at most."""
    nulls: int
    risky: int
    """How many start with a byte that a formula of a spreadsheet may start with."""


@dataclass(frozen=True)
class FieldsRead:
    """The fields of some records, as they lie in the bytes of a block."""

    content: bytes | memoryview
    places: Any
    """Where each field starts and ends, row by row, as `compiled.records.split` gives them."""
    width: int
    """Fields of each record."""
    as_is: Sequence[bool]
    """For each field whether it has quotes just where they are needed."""
    delimiter: str
    quote: str
    known: npt.NDArray[np.int64]
    """Of all records the facts of each field, a row for each fact."""
    asked: set[int]
    """The fields whose columns somebody asked for."""
    rows: npt.NDArray[np.int64] | None = None
    """The record of each row; None: that of its number."""

    def __len__(self) -> int:
        return len(self.places) // (2 * self.width) if self.rows is None else len(self.rows)

    @cached_property
    def record_sizes(self) -> npt.NDArray[np.int64]:
        """For each row the bytes from its first field to its last."""
        ends = self.places.reshape(-1, 2 * self.width)
        sizes: npt.NDArray[np.int64] = ends[:, -1].astype(np.int64) - (ends[:, 0] & PLACE)
        return sizes if self.rows is None else sizes[self.rows]

    def taken(self, places: Places) -> FieldsRead:
        """The fields of these rows, some of them or several times."""
        rows = np.ascontiguousarray(places if self.rows is None else self.rows[places], np.int64)
        return replace(self, rows=rows)

    def arrays(self, fields: list[int], start: int = 0, count: int | None = None) -> list[TextArray]:
        """The columns of some fields: of so many rows from one on, or of all."""
        assert compiled.records is not None
        if not fields:
            return []
        count = len(self) if count is None else count
        found = compiled.records.columns(
            self.content,
            self.places,
            self.width,
            ord(self.quote),
            fields,
            NO_ROWS if self.rows is None else self.rows,
            start,
            count,
            self.known[0] if self.rows is None and count == len(self) else NO_ROWS,
        )
        if found is None:
            raise TooLargeError(f"{len(self):,} rows of one column take more than 2 GB")
        return [text_column(*one) for one in found]

    def facts(self, fields: list[int]) -> list[FieldFacts]:
        assert compiled.records is not None
        found = self.known[:, fields]
        if self.rows is not None:
            absent = self._absent(self.rows)  # fewer than those that are there: less to look at
            rows = self.rows if absent is None else absent
            noted = compiled.records.field_facts(
                self.content, self.places, self.width, fields, rows, len(rows), RISKY_TABLE
            )
            found = noted if absent is None else found - noted
        return [FieldFacts(*one) for one in zip(*found.tolist(), strict=True)]

    def _absent(self, rows: npt.NDArray[np.int64]) -> npt.NDArray[np.int64] | None:
        """The records that are not among these; None where some may be there twice, or most are not there."""
        records = len(self.places) // (2 * self.width)
        if 2 * len(rows) < records or not (rows[1:] > rows[:-1]).all():
            return None
        absent = np.ones(records, np.bool_)
        absent[rows] = False
        return np.flatnonzero(absent)


def text_column(content: Any, offsets: Any, valid: Any, nulls: int) -> TextArray:
    """A text column of what the compiled kernel gives for it."""
    buffers = [
        None if valid is None else pa.py_buffer(valid),
        pa.py_buffer(offsets),
        pa.py_buffer(content),
    ]
    return pa.Array.from_buffers(pa.string(), len(offsets) - 1, buffers, nulls)


class FieldColumn:
    """A column of one field, which is made when its cells are asked for."""

    __slots__ = ("_before", "array", "facts", "field", "read")

    def __init__(
        self,
        read: FieldsRead,
        field: int,
        array: ColumnArray | None = None,
        before: tuple[ColumnArray, Places] | None = None,
        facts: FieldFacts | None = None,
    ) -> None:
        """`before`: the column was made already, of rows of which these were taken."""
        self.read, self.field, self._before = read, field, before
        self.array = array
        self.facts = facts

    def taken(self, read: FieldsRead, places: Places) -> FieldColumn:
        """The column of these rows, whose fields are `read`."""
        return FieldColumn(read, self.field, before=None if self.array is None else (self.array, places))

    def make_of_other(self) -> bool:
        """Makes the column where it is that of some rows of one that was made; whether it is made now."""
        if self.array is None and self._before is not None:
            self.array, self._before = take(*self._before), None
        return self.array is not None


Entry: TypeAlias = Any
"""A column, or a FieldColumn."""


class Columns(Sequence[ColumnArray]):
    """Columns of one length, some of which are made when they are asked for. Slices of it are such a sequence too.

    `entries` are the columns as they are now: to hand them on makes none.
    """

    __slots__ = ("entries",)

    def __init__(self, entries: Iterable[Entry]) -> None:
        self.entries: tuple[Entry, ...] = tuple(entries)

    def __len__(self) -> int:
        return len(self.entries)

    @overload
    def __getitem__(self, index: int) -> ColumnArray: ...
    @overload
    def __getitem__(self, index: slice) -> Columns: ...
    def __getitem__(self, index: int | slice) -> Any:
        if isinstance(index, slice):
            return Columns(self.entries[index])
        return self.made([index])[0]

    def __iter__(self) -> Iterator[ColumnArray]:
        return iter(self.made(range(len(self))))

    def made(self, indices: Iterable[int]) -> list[ColumnArray]:
        """These columns; all that are not made yet are made together, which costs less than one after the other."""
        chosen = [self.entries[index] for index in indices]
        for one in chosen:
            if isinstance(one, FieldColumn) and one.read.rows is None:
                one.read.asked.add(one.field)
        missing = [one for one in chosen if isinstance(one, FieldColumn) and not one.make_of_other()]
        if missing:
            arrays = missing[0].read.arrays([one.field for one in missing])
            for one, array in zip(missing, arrays, strict=True):
                one.array = array
        return [one.array if isinstance(one, FieldColumn) else one for one in chosen]

    def stretch(self, indices: Sequence[int], start: int, count: int) -> list[ColumnArray]:
        """Some rows of these columns, which does not make the columns."""
        chosen = [self.entries[index] for index in indices]
        missing = [one for one in chosen if is_unmade(one)]
        arrays = iter(missing[0].read.arrays([one.field for one in missing], start, count) if missing else ())
        found = []
        for one in chosen:
            column = one.array if isinstance(one, FieldColumn) else one
            found.append(next(arrays) if column is None else column.slice(start, count))
        return found

    def known(self) -> list[ColumnArray | FieldFacts]:
        """What is known of each column that is one of a field; for others, and for a few that are made, the column."""
        unknown = [one for one in self.entries if is_unmade(one) and one.facts is None]
        if unknown:
            told = unknown[0].read.facts([one.field for one in unknown])
            for one, facts in zip(unknown, told, strict=True):
                one.facts = facts
        return [
            one if not isinstance(one, FieldColumn) else one.array if one.facts is None else one.facts
            for one in self.entries
        ]


def is_unmade(one: Entry) -> bool:
    """Whether an entry is a column that is still to be made."""
    return isinstance(one, FieldColumn) and one.array is None


def entries_of(columns: Sequence[Entry]) -> list[Entry]:
    """The columns as they are, none of them made for it: what a step hands on."""
    return list(columns.entries) if isinstance(columns, Columns) else list(columns)


def made_of(columns: Sequence[ColumnArray], indices: Sequence[int]) -> list[ColumnArray]:
    """The columns of these indices, made together."""
    return columns.made(indices) if isinstance(columns, Columns) else [columns[index] for index in indices]


class ByName(Mapping[str, ColumnArray]):
    """Columns by their names; one that nobody asks for is not made."""

    def __init__(self, names: Sequence[str], columns: Sequence[ColumnArray]) -> None:
        if len(names) != len(columns):
            raise ValueError("a name for each column")
        self._places = {name: index for index, name in enumerate(names)}
        self._columns = columns

    def __getitem__(self, name: str) -> ColumnArray:
        return self._columns[self._places[name]]

    def __len__(self) -> int:
        return len(self._places)

    def __iter__(self) -> Iterator[str]:
        return iter(self._places)


def known_of(columns: Sequence[ColumnArray]) -> Sequence[ColumnArray | FieldFacts]:
    """The columns; in the place of those that are fields what is known of them, so that none need be made."""
    return columns.known() if isinstance(columns, Columns) else columns


def with_entries(before: Sequence[ColumnArray], entries: Sequence[Entry]) -> Sequence[ColumnArray]:
    """A sequence of columns and entries. A column that is one of `before` as it was made is its entry again."""
    if isinstance(entries, Columns):
        return entries
    if isinstance(before, Columns):
        known = {
            id(one.array): one
            for one in before.entries
            if isinstance(one, FieldColumn) and one.array is not None
        }
        entries = [known.get(id(one), one) for one in entries]
    if any(isinstance(one, FieldColumn) for one in entries):
        return Columns(entries)
    return tuple(entries)


def taken(columns: Sequence[ColumnArray], places: Places) -> Sequence[ColumnArray]:
    """The rows at these places; columns of fields stay unmade."""
    if not isinstance(columns, Columns):
        return tuple(take(column, places) for column in columns)
    reads: dict[int, FieldsRead] = {}
    found = []
    for one in columns.entries:
        if not isinstance(one, FieldColumn):
            found.append(take(one, places))
            continue
        if id(one.read) not in reads:
            reads[id(one.read)] = one.read.taken(places)
        found.append(one.taken(reads[id(one.read)], places))
    return Columns(found)


def made(columns: Sequence[ColumnArray], indices: Sequence[int] | None = None) -> Sequence[ColumnArray]:
    """The same columns, those made that are named; without names all, and nothing is kept of what was read."""
    if not isinstance(columns, Columns):
        return columns
    if indices is None:
        return tuple(columns)
    columns.made(indices)
    return columns
