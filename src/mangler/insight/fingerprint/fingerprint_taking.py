"""Takes the fingerprint of an extract as its rows pass, at a fraction of what a profile costs.

Of a column of few values only the values are counted as they pass, and looked at in the end. How the cells of others
are written is counted in the first rows, and in all rows only where that may tell something: of numbers, dates, times.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from enum import Enum
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.insight.columns.facts import Counts, distinct_in
from mangler.insight.columns.shape_kinds import ShapeKind, date_forms_of, kind_of
from mangler.insight.fingerprint.fingerprint import DELIMITED, MOST_VALUES, ColumnPrint, Fingerprint, Forms
from mangler.insight.fingerprint.following import follows_of
from mangler.insight.fingerprint.form_counts import forms_of, plain_shapes
from mangler.insight.fingerprint.seen import Hashes, Parts, Seen, Written, few_values, thousandths
from mangler.insight.fingerprint.typed_look import look_at_typed
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.keys import hashes
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.mark_counts import marks_per_cell
from mangler.kernels.text.measures import measure
from mangler.kernels.text.shapes import shapes_met
from mangler.kernels.text.text_view import TextArray, count_distinct_sorted, view
from mangler.kernels.text.white_space import trim
from mangler.kernels.values.spelled import spelled
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.schema import Schema, ValueType
from mangler.table.stored_types import describe_type

MARKS = (";", ",", "|", "/")
MOST_PARTS = 200
HEAD_ROWS = 2_000
"""The rows that show which columns follow from another."""
MOST_COMPARED = 200
"""Columns of a table whose values are compared with each other."""
FIRST_ROWS = 20_000
"""The rows of an extract that tell whether a column is one of numbers, dates or times."""


class _LooksAt(Enum):
    """What of cells beyond the first rows is looked at."""

    VALUES = "values"
    """The values that there are, as long as they are few."""
    ALL = "all"
    """How each cell is written, and its parts and length."""
    PARTS = "parts"
    """Parts and lengths alone."""


class FingerprintTaker:
    """Looks at batches as they are read, from several threads at once, and puts what it saw together in their order."""

    def __init__(self) -> None:
        self._read: tuple[str, str] | None = None
        self._quoting = ""
        self._format = DELIMITED
        self._columns: list[_ColumnTaker] = []
        self._rows = 0
        self.has_ended = False

    def begin(self, schema: Schema, details: Mapping[str, str]) -> None:
        self._read = details.get("delimiter", ""), details.get("encoding", "")
        self._quoting = details.get("quoting", "")
        self._format = details.get("format", DELIMITED)
        self._columns = [_ColumnTaker(column.name, describe_type(column)) for column in schema.columns]
        self._compares = len(schema.columns) <= MOST_COMPARED

    def observe(self, batch: Batch) -> list[list[Seen]]:
        """A list for each column, of what was seen in the first rows and in the others."""
        return self.observer()(batch)

    def observer(self) -> Observer:
        """What looks at rows, anywhere."""
        return Observer(tuple((one.looks_at, one.is_text) for one in self._columns), self._compares)

    def collect(self, seen: list[list[Seen]]) -> None:
        if seen:
            self._rows += sum(one.cells for one in seen[0])
        for taker, column in zip(self._columns, seen, strict=True):
            for one in column:
                taker.note(one)

    def end(self) -> None:
        self.has_ended = True

    @property
    def fingerprint(self) -> Fingerprint | None:
        """That of the rows seen so far; None where nothing was read."""
        if self._read is None:
            return None
        columns = [taker.finished() for taker in self._columns]
        heads = {taker.name: head for taker in self._columns if (head := taker.head) is not None}
        follows = follows_of(heads)
        return Fingerprint(*self._read, columns, self._rows, self._quoting, follows, self._format)


@dataclass(frozen=True)
class Observer:
    """Looks at the rows of a batch."""

    columns: tuple[tuple[Any, bool], ...]
    """Of each what is still looked at, and whether it is text."""
    compares: bool

    def __call__(self, batch: Batch) -> list[list[Seen]]:
        first = int(np.searchsorted(batch.rows, FIRST_ROWS, side="right"))
        parts = [batch.slice(0, first), batch.slice(first, len(batch) - first)]
        head = int(np.searchsorted(batch.rows, HEAD_ROWS, side="right")) if self.compares else None
        return [
            [
                _look(
                    part.columns[index],
                    part is parts[0],
                    looks_at,
                    head if part is parts[0] else None,
                    is_text,
                )
                for part in parts
                if len(part)
            ]
            for index, (looks_at, is_text) in enumerate(self.columns)
        ]


class _ColumnTaker:
    def __init__(self, name: str, type_name: str) -> None:
        self.name, self.type = name, type_name
        self.is_text = type_name == ValueType.TEXT
        self._cells = self._nulls = self._spaced = 0
        self._forms = Forms()
        self._hashed: list[Hashes] = []
        self._compared = True
        self._head: list[TextArray] = []
        self._few: tuple[dict[str, int], dict[str, int]] | None = ({}, {})
        """The values of the first rows, and of the others, as long as they are few together."""
        self._parts: Parts = {}
        self._lengths: tuple[int, int] | None = None
        self._first, self._rest = Written(), Written()
        self._only_parts = False
        """Whether of cells beyond the first rows only parts and lengths are noted."""

    @property
    def looks_at(self) -> _LooksAt:
        """What is looked at beyond the first rows: what is not noted need not be found.

        It spares work, and changes nothing: threads may see it early or late.
        """
        return _LooksAt.PARTS if self._only_parts else _LooksAt.ALL if self._few is None else _LooksAt.VALUES

    def note(self, seen: Seen) -> None:
        self._cells += seen.cells
        self._nulls += seen.nulls
        self._spaced += seen.spaced
        self._forms.add(seen.forms)
        if seen.hashed is not None:
            self._hashed.append(seen.hashed)
        elif seen.is_first:
            self._compared = False
        if seen.head is not None:
            self._head.append(seen.head)
        if seen.is_typed:
            self._note_typed(seen)
            return
        if self._few is not None and seen.few is not None:
            _add_up(self._few[not seen.is_first], seen.few)
            if len(self._few[0].keys() | self._few[1].keys()) <= MOST_VALUES:
                return
            self._let_few_go()
        else:
            self._let_few_go()
            self._take(seen if seen.few is None else _seen_of(seen.few, seen.is_first))

    def _note_typed(self, seen: Seen) -> None:
        self._first.add(seen.written)
        if self._few is None:
            return
        if seen.few is not None:
            _add_up(self._few[not seen.is_first], seen.few)
        if seen.few is None or len(self._few[0].keys() | self._few[1].keys()) > MOST_VALUES:
            self._few = None

    def _let_few_go(self) -> None:
        """There are too many values to keep them all."""
        few, self._few = self._few, None
        for is_first, values in zip((True, False), few or (), strict=False):
            if values:
                self._take(_seen_of(values, is_first))

    def _take(self, seen: Seen) -> None:
        for mark, counts in seen.parts.items():
            self._parts[mark] = self._parts.get(mark, Counter()) + counts
        self._lengths = _reach(self._lengths, seen.lengths)
        if seen.is_first:
            self._first.add(seen.written)
        elif self._first.by_machine:
            self._rest.add(seen.written)
        else:
            self._only_parts = True

    @property
    def head(self) -> TextArray | None:
        """The cells of the very first rows."""
        return pa.concat_arrays(self._head) if self._head else None

    def _repeats(self) -> int | None:
        if not self._compared:
            return None
        every = np.concatenate([np.zeros(0, np.uint64), *self._hashed])
        every.sort()
        return len(every) - count_distinct_sorted(every)

    def finished(self) -> ColumnPrint:
        whole = _ColumnTaker(self.name, self.type)
        whole._parts = {mark: Counter(counts) for mark, counts in self._parts.items()}
        whole._lengths = self._lengths
        whole._first.add(self._first)
        whole._rest.add(self._rest)
        values: dict[str, int] | None = None
        if self._few is not None:
            values = {}
            for few in self._few:
                _add_up(values, few)
            if self.is_text:
                whole._few = self._few
                whole._let_few_go()
        written = whole._first
        written.add(whole._rest)
        of_numbers = written.of_numbers
        shortest, longest = whole._lengths or (None, None)
        return ColumnPrint(
            self.name,
            self._cells,
            self._nulls,
            values,
            written.forms,
            whole._parts,
            written.least if of_numbers else None,
            written.most if of_numbers else None,
            shortest,
            longest,
            spaced=self._spaced,
            forms=self._forms.cut(),
            repeats=self._repeats(),
            total=written.thousandths / 1000 if of_numbers else None,
            type=self.type,
        )


def _reach(one: tuple[int, int] | None, other: tuple[int, int] | None) -> tuple[int, int] | None:
    if one is None or other is None:
        return one or other
    return min(one[0], other[0]), max(one[1], other[1])


def _add_up(values: dict[str, int], more: dict[str, int]) -> None:
    for value, cells in more.items():
        values[value] = values.get(value, 0) + cells


def _look(column: ColumnArray, is_first: bool, looks_at: _LooksAt, head: int | None, is_text: bool) -> Seen:
    """`head` is how many of these rows are among the very first; None where no rows are compared."""
    if not is_text:
        return look_at_typed(column, is_first, head)
    if not is_first and (looks_at is _LooksAt.PARTS or (looks_at is _LooksAt.ALL and _are_many(column))):
        return _look_at_each(spelled(column), looks_at is _LooksAt.ALL)
    values, counts, nulls = distinct_in(column)
    bare = trim(values).array
    spaced = int(counts[view(values).lengths != view(bare).lengths].sum())
    values = bare
    blank = view(values).lengths == 0
    if blank.any():
        nulls += int(counts[blank].sum())
        values, counts = values.filter(pa.array(~blank)), counts[~blank]
    few = few_values(values, counts)
    seen = Seen(is_first, len(column), nulls, few, spaced=spaced)
    if is_first:
        seen.forms = forms_of(values, counts)
        if head is not None:
            seen.hashed = np.repeat(hashes([values], len(values)), counts)
            seen.head = trim(spelled(column.slice(0, head))).array
    if few is None:
        seen.written, seen.parts, seen.lengths = (
            _written(values, counts),
            _parts(values, counts),
            _lengths(values),
        )
    return seen


def _are_many(column: ColumnArray) -> bool:
    """Whether to look at each cell costs less than to look at each value: by some cells from the middle."""
    some = column.slice(len(column) // 2, 2 * SOME)
    return len(as_dictionary(some).dictionary) > SOME


SOME = 400
"""Values among twice as many cells from which on each cell is looked at."""


def _look_at_each(cells: TextArray, written: bool) -> Seen:
    """What is counted of cells that are too many to know their values; with `written` also how they are."""
    found = measure(cells, MARKS, MOST_PARTS)
    nulls = cells.null_count + found.blank
    seen = Seen(False, len(cells), nulls, None, found.parts, found.lengths, spaced=found.spaced)
    if written:
        bare = cells.drop_null() if cells.null_count else cells
        if found.spaced:
            bare = trim(bare).array
        if found.blank:
            bare = bare.filter(pa.array(view(bare).lengths > 0))
        seen.written = _written(bare, None)
    return seen


def _lengths(values: TextArray) -> tuple[int, int] | None:
    """None of the values is blank."""
    if not len(values):
        return None
    lengths = np.asarray(pc.utf8_length(values))
    return int(lengths.min()), int(lengths.max())


def _seen_of(few: dict[str, int], is_first: bool) -> Seen:
    """What there is to say about a few values; their cells are counted already."""
    values = pa.array(list(few), pa.string())
    counts = np.array(list(few.values()), np.int64)
    return Seen(is_first, 0, 0, None, _parts(values, counts), _lengths(values), _written(values, counts))


def _parts(values: TextArray, counts: Counts) -> Parts:
    """For each mark that occurs how many cells have so many parts."""
    found: Parts = {}
    cells = view(values)
    for mark in MARKS:
        times = marks_per_cell(cells, ord(mark))
        if times is not None:
            each = np.bincount(np.minimum(times + 1, MOST_PARTS), counts).astype(np.int64)
            found[mark] = Counter({int(n): int(each[n]) for n in np.flatnonzero(each) if n > 1})
    return found


def _written(values: TextArray, counts: Counts | None) -> Written:
    """Kinds of shapes, and forms of dates, with their cells; without counts each value is one cell."""
    written = Written()
    if not len(values):
        return written
    met, codes = shapes_met(values)
    each = np.bincount(codes, counts, len(met)).astype(np.int64)
    for shape, cells in zip(met, each.tolist(), strict=True):
        forms = date_forms_of(shape)
        written.forms[forms[0] if forms else str(kind_of(shape))] += cells
    if written.forms[ShapeKind.NUMBER]:
        is_plain = plain_shapes(met)[codes]
        if is_plain.any():
            numbers = pc.cast(values.filter(pa.array(is_plain)), pa.float64())
            each_plain = np.ones(len(numbers), np.int64) if counts is None else counts[is_plain]
            least_and_most = pc.min_max(numbers).as_py()
            written.least, written.most = least_and_most["min"], least_and_most["max"]
            written.thousandths = thousandths(numbers, each_plain)
    return written
