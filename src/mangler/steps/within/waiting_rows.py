"""Rows of one run and what they ask of their groups: in memory where they have room there, else through sorted files.

The rows wait in their order. When all have come, what the calls need of them is put group by group; the values that
come from it go back into the order of the rows.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import chain

import numpy as np
import pyarrow as pa

from mangler.expressions.aggregates.aggregate import Columns
from mangler.expressions.aggregates.bind import BoundAggregate
from mangler.expressions.value import Failure
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.keys import Codes, folded, keys_of
from mangler.kernels.keys.order import SortKey, sort_order
from mangler.kernels.keys.segments import Segments, shifted
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.text_view import Flags, TooLargeError
from mangler.language.mistake import Refusal
from mangler.late_dataclass import dataclass
from mangler.steps.within.calls import GroupValue, Next
from mangler.steps.within.group_values import GroupValues, TooLarge
from mangler.steps.within.in_files import in_files
from mangler.steps.within.sorted_rows import Result, SortedRows
from mangler.steps.within.windows import Windows
from mangler.table.batch import Batch
from mangler.table.memory_budget import MemoryBudget
from mangler.table.spillable_rows import SpillableRows, rows_per_block
from mangler.table.state import StateReader, StateWriter
from mangler.table.types import ARROW


class WindowedRows:
    """The rows that wait: their columns, behind those the arguments of the calls, and last whether `where` is met."""

    def __init__(self, windows: Windows, budget: MemoryBudget) -> None:
        self._windows = windows
        self._budget = budget
        self._width = len(windows.before.columns)
        self._rows = SpillableRows(budget.share(2))

    def add(self, batch: Batch, arguments: Sequence[ColumnArray], met: Flags | None, partition: int) -> None:
        """Adds rows; the calls see those of `met` only, all of them for None."""
        flags = from_numpy(np.ones(len(batch), np.bool_) if met is None else met)
        self._rows.add(batch.with_columns((*batch.columns, *arguments, flags)), partition)

    def merge(self, later: WindowedRows) -> None:
        self._rows.extend(later._rows.consume(), later._rows.runs)

    def dump(self, state: StateWriter) -> None:
        self._rows.dump(state)

    def load(self, state: StateReader) -> None:
        self._rows.load(state)

    def release(self) -> Iterator[tuple[Batch, Flags, list[Result]]]:
        """The rows as they were, which of them the calls saw, and for each call the values."""
        if not self._rows.rows:
            return
        if self._rows.size <= self._budget.memory_limit // 2:
            values = self._in_memory()
        else:
            values = in_files(self._windows, self._needed(), self._budget.share(2))
        yield from self._with_values(values)

    def _needed(self) -> Iterator[Batch]:
        """Of the rows that are seen the keys as they are compared, the columns they are sorted by, the arguments."""
        windows = self._windows
        for batch in self._rows:
            met = batch.columns[-1]
            columns = (
                *(folded(batch.columns[index], False) for index in windows.keys),
                *(batch.columns[index] for index in windows.order),
                *batch.columns[self._width : -1],
            )
            narrow = batch.with_columns(columns)
            yield narrow if met.true_count == len(batch) else narrow.filter(np.asarray(met))

    def _in_memory(self) -> Iterator[Batch | _Whole]:
        windows = self._windows
        pieces = [batch for batch in self._needed() if len(batch)]
        if not pieces:
            return
        width = len(pieces[0].columns)
        columns = [pa.concat_arrays([one.columns[index] for one in pieces]) for index in range(width)]
        count = sum(map(len, pieces))
        del pieces
        keys, rest = columns[: len(windows.keys)], columns[len(windows.keys) :]
        order, arguments = rest[: len(windows.order)], rest[len(windows.order) :]
        codes = keys_of(keys, count).codes
        by = sort_order([from_numpy(codes), *order], [SortKey(), *windows.sort_keys])
        segments = Segments.of(codes[by])
        places = from_numpy(by)
        peers = np.zeros(count, np.bool_)
        peers[segments.starts] = True
        for column in order:
            peers |= differs(folded(column.take(places), False))
        rows = SortedRows(segments, False, peers, windows.spread([one.take(places) for one in arguments]))
        back = np.empty(count, np.int64)
        back[by] = np.arange(count)
        yield _Whole(*values_of_all(windows, rows, self._budget.memory_limit, keys, by), back)

    def _with_values(self, values: Iterator[Batch | _Whole]) -> Iterator[tuple[Batch, Flags, list[Result]]]:
        first = next(values, None)
        taken = _Taken(None if first is None else chain([first], values), self._windows)
        for batch in self._rows.consume():
            step = rows_per_block(batch)
            for start in range(0, len(batch), step):
                part = batch.slice(start, step)
                met = np.asarray(part.columns[-1])
                yield part.with_columns(part.columns[: self._width]), met, taken.next(met)
        self._rows.close()


@dataclass(frozen=True)
class _Whole:
    """The values of all rows, which are seen, group by group.

    A call has a value for each sorted row, or one for each group; `back` are the places of the rows among the sorted.
    """

    results: list[Result]
    is_per_group: list[bool]
    codes: Codes
    back: Codes

    def some(self, start: int, end: int) -> list[Result]:
        """The values of rows in their order."""
        places = self.back[start:end]
        out = []
        for result, per_group in zip(self.results, self.is_per_group, strict=True):
            at = self.codes[places] if per_group else places
            failures = tuple(Failure(one.flags[at], one.reason) for one in result.failures)
            out.append(Result(result.array.take(from_numpy(at)), failures))
        return out


class _Taken:
    """Hands out values for the rows that come, of which only some are seen."""

    def __init__(self, values: Iterator[Batch | _Whole] | None, windows: Windows) -> None:
        self._values, self._windows = values, windows
        self._whole: _Whole | None = None
        self._at = 0
        self._held: list[Batch] = []

    def next(self, met: Flags) -> list[Result]:
        count = int(np.count_nonzero(met))
        if self._values is None:
            return [Result(pa.nulls(len(met), ARROW[call.kind])) for call in self._windows.calls]
        if self._whole is None and not self._held:
            first = next(self._values)
            if isinstance(first, _Whole):
                self._whole = first
            else:
                self._held.append(first)
        if self._whole is not None:
            results = self._whole.some(self._at, self._at + count)
            self._at += count
        else:
            results = self._from_files(count)
        if count == len(met):
            return results
        places = from_numpy(np.cumsum(met) - 1, nulls=~met)
        at = np.asarray(places.fill_null(0))
        return [
            Result(
                one.array.take(places) if count else pa.nulls(len(met), one.array.type),
                tuple(Failure(f.flags[at] & met, f.reason) for f in one.failures if count),
            )
            for one in results
        ]

    def _from_files(self, count: int) -> list[Result]:
        assert self._values is not None
        while sum(map(len, self._held)) < count:
            batch = next(self._values)
            assert isinstance(batch, Batch)
            self._held.append(batch)
        origin, width = self._held[0].origin, len(self._held[0].columns)
        whole = [pa.concat_arrays([one.columns[index] for one in self._held]) for index in range(width)]
        rest = tuple(column.slice(count) for column in whole)
        self._held = [Batch(rest, np.zeros(len(rest[0]), np.int64), origin)]
        out = []
        for number in range(len(self._windows.calls)):
            array, why = whole[2 * number].slice(0, count), whole[2 * number + 1].slice(0, count)
            out.append(Result(array, failures_of(why)))
        return out


def differs(column: ColumnArray) -> Flags:
    """Which cells differ from the one before; null is like null. The first one does not count."""
    codes = keys_of([column], len(column)).codes
    return np.append(False, codes[1:] != codes[:-1]) if len(codes) else np.zeros(0, np.bool_)


def failures_of(why: ColumnArray) -> tuple[Failure, ...]:
    """Failures of the rows that have a reason."""
    if why.null_count == len(why):
        return ()
    encoded = as_dictionary(why)
    codes = np.asarray(encoded.indices.fill_null(-1))
    return tuple(Failure(codes == code, text) for code, text in enumerate(encoded.dictionary.to_pylist()))


def values_of_all(
    windows: Windows, rows: SortedRows, limit: int, keys: Sequence[ColumnArray], by: Codes
) -> tuple[list[Result], list[bool], Codes]:
    """The values of all calls for rows that are there in one piece; for aggregates one for each group."""
    results, per_group = [], []
    segments = rows.segments

    def too_large(aggregate: BoundAggregate, size: int) -> Refusal:
        last = by[segments.starts[-1]]
        return windows.too_large(windows.told([key.slice(int(last), 1) for key in keys]), aggregate, size)

    for call, arguments in zip(windows.calls, rows.arguments, strict=True):
        if isinstance(call, GroupValue):
            per_group.append(True)
            results.append(_of_groups(call, rows, arguments, limit, too_large, windows))
            continue
        per_group.append(False)
        if isinstance(call, Next):
            results.append(Result(shifted(arguments[0], segments, -call.distance)))
        else:
            results.append(call.runner().take(rows, arguments))
    return results, per_group, segments.codes


def _of_groups(
    call: GroupValue, rows: SortedRows, arguments: Columns, limit: int, too_large: TooLarge, windows: Windows
) -> Result:
    values = GroupValues(call.aggregate, limit, too_large)
    try:
        closed, failed = values.take(rows, arguments)
        last, failed_last = values.last()
    except TooLargeError:
        raise windows.too_large("", call.aggregate, None) from None
    failures = [
        *(Failure(np.append(one.flags, False), one.reason) for one in failed),
        *(Failure(np.append(np.zeros(len(closed), np.bool_), one.flags), one.reason) for one in failed_last),
    ]
    return Result(pa.concat_arrays([closed, last]), tuple(failures))
