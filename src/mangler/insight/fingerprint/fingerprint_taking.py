"""Takes the fingerprint of an extract as its rows pass, at a fraction of what a profile costs.

Of a column of few values only the values are counted as they pass, and looked at in the end. How the cells of others
are written is counted in the first rows, and in later ones only where that may tell something: of numbers, dates and
times. Of the later rows of a large extract a part is looked at (`stretches`).
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping

import numpy as np
import pyarrow as pa

from mangler.insight.fingerprint.fingerprint import DELIMITED, MOST_VALUES, ColumnPrint, Fingerprint, Forms
from mangler.insight.fingerprint.following import follows_of
from mangler.insight.fingerprint.looking import LooksAt, Observer, seen_of
from mangler.insight.fingerprint.seen import Hashes, Parts, Seen, Written
from mangler.kernels.text.text_view import TextArray, count_distinct_sorted
from mangler.table.batch import Batch
from mangler.table.schema import Schema, ValueType
from mangler.table.stored_types import describe_type

MOST_COMPARED = 200
"""Columns of a table whose values are compared with each other."""


class FingerprintTaker:
    """Looks at batches as they are read, from several threads at once, and puts what it saw together in their order."""

    def __init__(self) -> None:
        self._read: tuple[str, str] | None = None
        self._quoting = ""
        self._format = DELIMITED
        self._columns: list[_ColumnTaker] = []
        self._rows = 0
        self.has_ended = False
        self._whole: Fingerprint | None = None
        """That of all rows, once it was asked for."""

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
        if self._whole is not None:
            return self._whole
        columns = [taker.finished() for taker in self._columns]
        heads = {taker.name: head for taker in self._columns if (head := taker.head) is not None}
        follows = follows_of(heads)
        found = Fingerprint(*self._read, columns, self._rows, self._quoting, follows, self._format)
        if self.has_ended:
            self._whole = found
        return found


class _ColumnTaker:
    def __init__(self, name: str, type_name: str) -> None:
        self.name, self.type = name, type_name
        self.is_text = type_name == ValueType.TEXT
        self._cells = self._nulls = self._spaced = 0
        self._forms = Forms()
        self._hashed: list[Hashes] = []
        self._compared = True
        self._head: list[TextArray] = []
        self._few: tuple[dict[str, int], ...] | None = ({}, {}, {})
        """The values of the first rows, of others that are looked at, and of those between, as long as they are few
        together."""
        self._between = Seen(False, 0, 0)
        """What was counted of rows between those that are looked at: it counts where values are few."""
        self._parts: Parts = {}
        self._lengths: tuple[int, int] | None = None
        self._first, self._rest = Written(), Written()
        self._only_parts = False
        """Whether of cells beyond the first rows only parts and lengths are noted."""

    @property
    def looks_at(self) -> LooksAt:
        """What is looked at beyond the first rows: what is not noted need not be found.

        It spares work, and changes nothing: threads may see it early or late.
        """
        return LooksAt.PARTS if self._only_parts else LooksAt.ALL if self._few is None else LooksAt.VALUES

    def note(self, seen: Seen) -> None:
        if seen.is_between:
            self._note_between(seen)
            return
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
            if _are_few(self._few):
                return
            self._let_few_go()
        else:
            self._let_few_go()
            self._take(seen if seen.few is None else seen_of(seen.few, seen.is_first))

    def _note_typed(self, seen: Seen) -> None:
        self._first.add(seen.written)
        if self._few is None:
            return
        if seen.few is not None:
            _add_up(self._few[not seen.is_first], seen.few)
        if seen.few is None or not _are_few(self._few):
            self._few = None

    def _note_between(self, seen: Seen) -> None:
        between = self._between
        self._between = Seen(
            False, between.cells + seen.cells, between.nulls + seen.nulls, spaced=between.spaced + seen.spaced
        )
        if self._few is None:
            return
        if seen.few is not None:
            _add_up(self._few[2], seen.few)
        if seen.few is None or not _are_few(self._few):
            self._let_few_go()

    def _let_few_go(self) -> None:
        """There are too many values to keep them all: those between are forgotten, as others of them were not seen."""
        few, self._few = self._few, None
        if few is not None and self.is_text:
            self._take_few(few[:2])

    def _take_few(self, few: tuple[dict[str, int], ...]) -> None:
        for number, values in enumerate(few):
            if values:
                self._take(seen_of(values, number == 0))

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
                whole._take_few(self._few)
        between = self._between if values is not None else Seen(False, 0, 0)
        written = whole._first
        written.add(whole._rest)
        of_numbers = written.of_numbers
        shortest, longest = whole._lengths or (None, None)
        return ColumnPrint(
            self.name,
            self._cells + between.cells,
            self._nulls + between.nulls,
            values,
            written.forms,
            whole._parts,
            written.least if of_numbers else None,
            written.most if of_numbers else None,
            shortest,
            longest,
            spaced=self._spaced + between.spaced,
            forms=self._forms.cut(),
            repeats=self._repeats(),
            total=written.thousandths / 1000 if of_numbers else None,
            type=self.type,
            passed_over=self._between.cells - between.cells,
        )


def _are_few(values: tuple[dict[str, int], ...]) -> bool:
    return len(set().union(*values)) <= MOST_VALUES


def _reach(one: tuple[int, int] | None, other: tuple[int, int] | None) -> tuple[int, int] | None:
    if one is None or other is None:
        return one or other
    return min(one[0], other[0]), max(one[1], other[1])


def _add_up(values: dict[str, int], more: dict[str, int]) -> None:
    for value, cells in more.items():
        values[value] = values.get(value, 0) + cells
