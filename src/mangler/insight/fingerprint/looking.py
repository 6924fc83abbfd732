"""Looks at the rows of a batch, for a fingerprint: how cells are written, their parts, and values that are few."""

from __future__ import annotations

from collections import Counter
from enum import Enum
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.insight.columns.facts import Counts, distinct_in
from mangler.insight.columns.shape_kinds import ShapeKind, date_forms_of, kind_of
from mangler.insight.fingerprint.form_counts import Met, forms_of, plain_shapes
from mangler.insight.fingerprint.seen import Parts, Seen, Written, few_values, thousandths
from mangler.insight.fingerprint.stretches import Look, Stretch, stretches
from mangler.insight.fingerprint.typed_look import has_many, look_at_typed
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.keys import hashes
from mangler.kernels.text.dictionary import has_more_values
from mangler.kernels.text.fields import Columns
from mangler.kernels.text.mark_counts import marks_per_cell
from mangler.kernels.text.measures import measure
from mangler.kernels.text.shapes import shapes_met
from mangler.kernels.text.text_view import TextArray, view
from mangler.kernels.text.white_space import trim
from mangler.kernels.values.spelled import spelled
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch

MARKS = (";", ",", "|", "/")
MOST_PARTS = 200
HEAD_ROWS = 2_000
"""The rows that show which columns follow from another."""


class LooksAt(Enum):
    """What of cells beyond the first rows is looked at."""

    VALUES = "values"
    """The values that there are, as long as they are few."""
    ALL = "all"
    """How each cell is written, and its parts and length."""
    PARTS = "parts"
    """Parts and lengths alone."""


@dataclass(frozen=True)
class Observer:
    """Looks at the rows of a batch."""

    columns: tuple[tuple[Any, bool], ...]
    """Of each what is still looked at, and whether it is text."""
    compares: bool

    def __call__(self, batch: Batch) -> list[list[Seen]]:
        head = int(np.searchsorted(batch.rows, HEAD_ROWS, side="right")) if self.compares else None
        seen: list[list[Seen]] = [[] for _ in self.columns]
        for part in stretches(batch.rows):
            for own, column, (looks_at, is_text) in zip(
                seen, self._cells(batch, part), self.columns, strict=True
            ):
                if column is None:
                    own.append(Seen(False, part.count, 0, is_between=True))
                elif part.look is Look.BETWEEN:
                    own.append(_between(column, is_text))
                else:
                    is_first = part.look is Look.FIRST
                    own.append(_look(column, is_first, looks_at, head if is_first else None, is_text))
        return seen

    def _cells(self, batch: Batch, part: Stretch) -> list[ColumnArray | None]:
        """The cells of a stretch that are looked at, column by column; None where a column's are not."""
        wanted = list(range(len(self.columns)))
        if part.look is Look.BETWEEN:
            wanted = [index for index in wanted if self.columns[index][0] is LooksAt.VALUES]
        columns = batch.columns
        if not isinstance(columns, Columns):
            found = [columns[index].slice(part.start, part.count) for index in wanted]
        else:
            # A column of which all cells are looked at is made; of others the stretch alone.
            values = [index for index, (looks_at, _) in enumerate(self.columns) if looks_at is LooksAt.VALUES]
            columns.made(wanted if 2 * part.count > len(batch) else values)
            found = columns.stretch(wanted, part.start, part.count)
        cells: list[ColumnArray | None] = [None] * len(self.columns)
        for index, column in zip(wanted, found, strict=True):
            cells[index] = column
        return cells


def _look(column: ColumnArray, is_first: bool, looks_at: LooksAt, head: int | None, is_text: bool) -> Seen:
    """`head` is how many of these rows are among the very first; None where no rows are compared."""
    if not is_text:
        return look_at_typed(column, is_first, head)
    is_many = (is_first or looks_at is not LooksAt.PARTS) and _are_many(column)
    if not is_first and (is_many or looks_at is LooksAt.PARTS):
        return _look_at_each(spelled(column), looks_at is not LooksAt.PARTS)
    values, counts, nulls, spaced = _bare_values(column, is_many)
    few = None if is_many else few_values(values, counts)
    seen = Seen(is_first, len(column), nulls, few, spaced=spaced)
    if few is not None and not is_first:
        return seen
    met = shapes_met(values)
    if is_first:
        seen.forms = forms_of(values, counts, met)
        if head is not None:
            seen.hashed = np.repeat(hashes([values], len(values)), counts)
            seen.head = trim(spelled(column.slice(0, head))).array
    if few is None:
        seen.written = _written(values, counts, met)
        if is_many:
            found = measure(values, MARKS, MOST_PARTS)
            seen.parts, seen.lengths = found.parts, found.lengths
        else:
            seen.parts, seen.lengths = _parts(values, counts), _lengths(values)
    return seen


def _between(column: ColumnArray, is_text: bool) -> Seen:
    """Cells between those that are looked at: their values, as long as these are few."""
    if not is_text:
        few = None if has_many(column) else few_values(*distinct_in(column)[:2])
        return Seen(False, len(column), column.null_count, few, is_between=True)
    if _are_many(column):
        found = measure(spelled(column), MARKS, MOST_PARTS)
        return Seen(
            False, len(column), column.null_count + found.blank, None, spaced=found.spaced, is_between=True
        )
    values, counts, nulls, spaced = _bare_values(column)
    return Seen(False, len(column), nulls, few_values(values, counts), spaced=spaced, is_between=True)


def _bare_values(column: ColumnArray, is_many: bool = False) -> tuple[TextArray, Counts, int, int]:
    """The values without white space around them, their cells, and how many cells are null, or have white space.

    With `is_many` each cell is a value by itself.
    """
    if is_many:
        nulls = column.null_count
        values = spelled(column.drop_null() if nulls else column)
        counts = np.ones(len(values), np.int64)
    else:
        values, counts, nulls = distinct_in(column)
    bare = trim(values).array
    spaced = int(counts[view(values).lengths != view(bare).lengths].sum())
    blank = view(bare).lengths == 0
    if blank.any():
        nulls += int(counts[blank].sum())
        bare, counts = bare.filter(from_numpy(~blank)), counts[~blank]
    return bare, counts, nulls, spaced


def _are_many(column: ColumnArray) -> bool:
    """Whether some cells from the middle show that values are many: then to look at each cell costs less."""
    some = column.slice(len(column) // 2, 2 * SOME)
    return has_more_values(some, SOME) and has_more_values(trim(spelled(some)).array, SOME)


SOME = 400
"""Values among twice as many cells from which on each cell is looked at. They are more than any column of few has."""


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
            bare = bare.filter(from_numpy(view(bare).lengths > 0))
        seen.written = _written(bare, None, shapes_met(bare))
    return seen


def _lengths(values: TextArray) -> tuple[int, int] | None:
    """None of the values is blank."""
    if not len(values):
        return None
    lengths = np.asarray(pc.utf8_length(values))
    return int(lengths.min()), int(lengths.max())


def seen_of(few: dict[str, int], is_first: bool) -> Seen:
    """What there is to say about a few values; their cells are counted already."""
    values = pa.array(list(few), pa.string())
    counts = np.array(list(few.values()), np.int64)
    return Seen(
        is_first,
        0,
        0,
        None,
        _parts(values, counts),
        _lengths(values),
        _written(values, counts, shapes_met(values)),
    )


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


def _written(values: TextArray, counts: Counts | None, met: Met) -> Written:
    """Kinds of shapes, and forms of dates, with their cells; without counts each value is one cell."""
    written = Written()
    if not len(values):
        return written
    spelled_shapes, codes = met
    each = np.bincount(codes, counts, len(spelled_shapes)).astype(np.int64)
    for shape, cells in zip(spelled_shapes, each.tolist(), strict=True):
        forms = date_forms_of(shape)
        written.forms[forms[0] if forms else str(kind_of(shape))] += cells
    if written.forms[ShapeKind.NUMBER]:
        is_plain = plain_shapes(spelled_shapes)[codes]
        if is_plain.any():
            numbers = pc.cast(values.filter(from_numpy(is_plain)), pa.float64())
            each_plain = np.ones(len(numbers), np.int64) if counts is None else counts[is_plain]
            least_and_most = pc.min_max(numbers).as_py()
            written.least, written.most = least_and_most["min"], least_and_most["max"]
            written.thousandths = thousandths(numbers, each_plain)
    return written
