"""What rows ask of their groups, when the rows have no room in memory: two passes over sorted files."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pyarrow as pa

from mangler.expressions.aggregates.bind import BoundAggregate
from mangler.expressions.reasons import reason_of
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.keys import folded, keys_of
from mangler.kernels.keys.order import SortKey
from mangler.kernels.keys.segments import Segments, shifted
from mangler.kernels.text.text_view import TooLargeError
from mangler.language.mistake import Refusal
from mangler.steps.within.calls import GroupValue, Next
from mangler.steps.within.group_values import GroupValues
from mangler.steps.within.sorted_rows import Result, SortedRows
from mangler.steps.within.windows import Windows
from mangler.table.batch import Batch
from mangler.table.external_sort import ExternalSort
from mangler.table.memory_budget import MemoryBudget
from mangler.table.spillable_rows import SpillableRows, in_blocks


def in_files(windows: Windows, needed: Iterator[Batch], budget: MemoryBudget) -> Iterator[Batch]:
    """For the rows in their order, for each call its values and, in a column of its own, why a row fails."""
    shares = budget.share(4)
    keyed = len(windows.keys)
    by = tuple(range(keyed + len(windows.order)))
    sort_keys = [*[SortKey()] * keyed, *windows.sort_keys]
    # Without any all rows are one group, in the order of the extract.
    sorting = ExternalSort(by, sort_keys, shares) if by else None
    plain = SpillableRows(shares)
    at = 0
    for batch in needed:
        indexed = batch.with_columns((*batch.columns, pa.array(np.arange(at, at + len(batch)))))
        at += len(batch)
        if sorting is not None:
            sorting.add(indexed)
        else:
            plain.add(indexed)
    if not at:
        return
    arranged = SpillableRows(shares)
    passes = _Passes(windows, budget.memory_limit, shares)
    for batch in sorting.sorted() if sorting is not None else plain.consume():
        arranged.add(passes.first(batch))
    passes.end()
    back = ExternalSort((0,), (SortKey(),), shares)
    for batch in passes.second(arranged):
        back.add(batch)
    for batch in back.sorted():
        yield batch.with_columns(batch.columns[1:])


class _Passes:
    """The first pass finds what is known from the rows so far, and the values of groups; the second puts them in."""

    def __init__(self, windows: Windows, limit: int, budget: MemoryBudget) -> None:
        self._windows = windows
        self._last: Batch | None = None
        self._before = 0
        self._runners = {
            number: call.runner()
            for number, call in enumerate(windows.calls)
            if not isinstance(call, (GroupValue, Next))
        }
        self._groups = {
            number: GroupValues(call.aggregate, limit, self._too_large)
            for number, call in enumerate(windows.calls)
            if isinstance(call, GroupValue)
        }
        self._values = {number: SpillableRows(budget) for number in self._groups}

    def first(self, batch: Batch) -> Batch:
        """The index of each row, whether it starts a group, and two columns for each call."""
        windows = self._windows
        keyed, ordered = len(windows.keys), len(windows.order)
        compared = [folded(column, False) for column in batch.columns[: keyed + ordered]]
        starts, peers = self._changes(compared, len(batch), keyed)
        goes_on = not starts[0]
        starts[0] = True
        segments = Segments(np.flatnonzero(starts), len(batch), self._before if goes_on else 0)
        rows = SortedRows(segments, goes_on, peers, windows.spread(batch.columns[keyed + ordered : -1]))
        starts = starts.copy()
        starts[0] = not goes_on
        self._last = batch.slice(len(batch) - 1, 1).with_columns(
            [one.slice(len(batch) - 1) for one in compared]
        )
        columns: list[ColumnArray] = [batch.columns[-1], pa.array(starts)]
        try:
            for number in range(len(windows.calls)):
                columns += self._of_call(number, rows)
        except TooLargeError:
            raise windows.too_large("", None, None) from None
        self._before = int(segments.numbers[-1]) + 1
        return Batch(tuple(columns), batch.rows, batch.origin)

    def _changes(self, compared: list[ColumnArray], count: int, keyed: int) -> tuple[np.ndarray, np.ndarray]:
        """Which rows start a group, and which differ from the one before at all."""
        if self._last is None:
            starts = np.append(True, np.zeros(count - 1, np.bool_))
            whole, skip = compared, 0
        else:
            starts = np.zeros(count, np.bool_)
            whole = [pa.concat_arrays(pair) for pair in zip(self._last.columns, compared, strict=True)]
            skip = 1
        peers = starts.copy()
        for columns, flags in ((whole[:keyed], starts), (whole, peers)):
            if columns:
                codes = keys_of(columns, count + skip).codes
                flags[1 - skip :] |= codes[1:] != codes[:-1]
        return starts, peers

    def _of_call(self, number: int, rows: SortedRows) -> list[ColumnArray]:
        """What is known of a call's values for these rows; for `next` the values that rows before look for."""
        arguments = rows.arguments[number]
        nothing = pa.nulls(rows.segments.count, pa.string())
        if number in self._groups:
            closed, failed = self._groups[number].take(rows, arguments)
            self._keep(number, Result(closed, failed))
            return [pa.nulls(rows.segments.count), nothing]
        if number in self._runners:
            result = self._runners[number].take(rows, arguments)
            return [result.array, why(result)]
        return [arguments[0], nothing]

    def _keep(self, number: int, result: Result) -> None:
        count = len(result.array)
        if count:
            batch = Batch((result.array, why(result)), np.zeros(count, np.int64), self._values[number].origin)
            self._values[number].add(batch)

    def end(self) -> None:
        """All rows were in the first pass."""
        for number, values in self._groups.items():
            self._keep(number, Result(*values.last()))

    def second(self, arranged: SpillableRows) -> Iterator[Batch]:
        """The index of each row, and for each call its value and why it fails."""
        calls = self._windows.calls
        readers = {number: _Reader(values) for number, values in self._values.items()}
        far = max((call.distance for call in calls if isinstance(call, Next)), default=0)
        group = -1
        for batch, following in _with_following(in_blocks(arranged.consume(), arranged.origin), far):
            starts = np.asarray(batch.columns[1])
            numbers = group + np.cumsum(starts)
            group = int(numbers[-1])
            columns = [batch.columns[0]]
            for number, call in enumerate(calls):
                if number in readers:
                    columns += readers[number].take(numbers)
                elif isinstance(call, Next):
                    columns += [
                        _after(batch, following, number, call.distance),
                        batch.columns[3 + 2 * number],
                    ]
                else:
                    columns += batch.columns[2 + 2 * number : 4 + 2 * number]
            yield Batch(tuple(columns), batch.rows, batch.origin)
        for values in self._values.values():
            values.close()

    def _too_large(self, aggregate: BoundAggregate, size: int) -> Refusal:
        keyed = len(self._windows.keys)
        keys = [] if self._last is None else self._last.columns[:keyed]
        return self._windows.too_large(self._windows.told(keys), aggregate, size)


def _after(batch: Batch, following: list[Batch], number: int, distance: int) -> ColumnArray:
    """The value so many rows after each row of a batch; the batches behind it are there as far as they are needed."""
    every = [batch, *following]
    values = pa.concat_arrays([one.columns[2 + 2 * number] for one in every])
    starts = np.concatenate([np.asarray(one.columns[1]) for one in every])
    starts[0] = True
    return shifted(values, Segments(np.flatnonzero(starts), len(values)), -distance).slice(0, len(batch))


def _with_following(batches: Iterator[Batch], far: int) -> Iterator[tuple[Batch, list[Batch]]]:
    """Each batch, with those behind it as far as the next so many rows are in them."""
    held: list[Batch] = []
    for batch in batches:
        held.append(batch)
        while sum(map(len, held[1:])) >= far and len(held) > bool(far):
            yield held[0], held[1:]
            held.pop(0)
    while held:
        yield held[0], held[1:]
        held.pop(0)


class _Reader:
    """Reads the values of groups, which are asked for in their order."""

    def __init__(self, values: SpillableRows) -> None:
        self._batches = values.consume()
        self._held: list[Batch] = []
        self._first = 0

    def take(self, numbers: np.ndarray) -> list[ColumnArray]:
        """The value and the reason of the group of each row."""
        lowest, highest = int(numbers[0]), int(numbers[-1])
        while self._first + sum(map(len, self._held)) <= highest:
            self._held.append(next(self._batches))
        while len(self._held) > 1 and self._first + len(self._held[0]) <= lowest:
            self._first += len(self._held.pop(0))
        places = from_numpy(numbers - self._first)
        return [
            pa.concat_arrays([batch.columns[index] for batch in self._held]).take(places) for index in (0, 1)
        ]


def why(result: Result) -> ColumnArray:
    """The reason of each row that fails, else null."""
    reasons = pa.nulls(len(result.array), pa.string())
    for failure in result.failures:
        text = reason_of(failure.reason, int(np.argmax(failure.flags)))
        reasons = pa.compute.if_else(from_numpy(failure.flags), text, reasons)
    return reasons
