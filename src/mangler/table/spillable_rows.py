"""Rows that a step has gathered: in memory within its budget, then in a file."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.table.batch import Batch
from mangler.table.memory_budget import MemoryBudget, SpoolFile
from mangler.table.packing import MixedOrigin, packed, unpacked
from mangler.table.positions import Run
from mangler.table.state import StateReader, StateWriter

BLOCK = 4 << 20
"""Bytes of the batches that come out."""


def concat_batches(batches: Sequence[Batch], origin: MixedOrigin) -> Batch:
    """All these rows, of at least one batch, in one."""
    if len(batches) == 1:
        return Batch(batches[0].columns, batches[0].rows, origin)
    width = len(batches[0].columns)
    columns = tuple(pa.concat_arrays([batch.columns[i] for batch in batches]) for i in range(width))
    return Batch(columns, np.concatenate([batch.rows for batch in batches]), origin)


def concat_and_clear(batches: list[Batch], origin: MixedOrigin) -> Batch:
    """All these rows, of at least one batch, in one; the list is empty then.

    Column by column, so that besides the rows only one column is in memory a second time.
    """
    rows = np.concatenate([batch.rows for batch in batches])
    columns = [list(batch.columns) for batch in batches]
    batches.clear()
    whole = []
    for offset in range(len(columns[0])):
        whole.append(
            pa.concat_arrays([one[offset] for one in columns]) if len(columns) > 1 else columns[0][offset]
        )
        for one in columns:
            one[offset] = None
    return Batch(tuple(whole), rows, origin)


def size_of(batch: Batch) -> int:
    """Bytes in memory."""
    return sum(map(size_of_column, batch.columns)) + int(batch.rows.nbytes)


def size_of_column(column: ColumnArray) -> int:
    if not pa.types.is_string(column.type):
        return int(column.nbytes)
    # Arrow would say the same, but only once no other thread is in Python: in every call for every column.
    _, offsets, _ = column.buffers()
    if offsets is None or not offsets.size:
        return 0
    count = len(column)
    first, last = np.frombuffer(offsets, np.int32, count + 1, column.offset * 4)[[0, -1]].tolist()
    return int(last - first) + 4 * (count + 1) + (-(-count // 8) if column.null_count else 0)


def take_batches(batch: Batch, order: Any) -> Iterator[Batch]:
    """The rows in this order, in batches of a block."""
    step = rows_per_block(batch)
    for start in range(0, len(order), step):
        yield batch.take(order[start : start + step])


def in_blocks(batches: Iterable[Batch], origin: MixedOrigin) -> Iterator[Batch]:
    """The same rows, batches of less than half a block joined until they have that much."""
    held: list[Batch] = []
    size = 0
    for batch in batches:
        held.append(batch)
        size += size_of(batch)
        if size * 2 >= BLOCK:
            yield concat_batches(held, origin)
            held, size = [], 0
    if held:
        yield concat_batches(held, origin)


def rows_per_block(batch: Batch) -> int:
    return max(1024, int(len(batch) * BLOCK / max(1, size_of(batch))))


class SpillableRows:
    """Rows in their order. Those beyond the memory limit go to a file."""

    def __init__(self, budget: MemoryBudget, hold: int | None = None) -> None:
        """`hold`: bytes of rows in memory; None: those of the budget."""
        self._budget = budget
        self._hold = budget.memory_limit if hold is None else hold
        self._file: SpoolFile | None = None
        self._offsets: list[int] = []
        self._held: list[Batch] = []
        self._held_size = 0
        self.size = 0
        self.rows = 0
        self.runs: list[Run] = []
        """Which partitions the rows came from, in their order."""
        self.origin = MixedOrigin()

    def add(self, batch: Batch, partition: int = 0) -> None:
        """Adds rows of a partition, behind those of all partitions before it."""
        if not len(batch):
            return
        self.runs.append((partition, len(batch)))
        self._keep(batch)

    def extend(self, batches: Iterable[Batch], runs: Iterable[Run]) -> None:
        """Adds rows of later partitions, of which these are the runs."""
        self.runs += runs
        for batch in batches:
            self._keep(batch)

    def dump(self, state: StateWriter) -> None:
        """Writes all rows, which are not held here any longer."""
        state.record({"runs": self.runs})
        state.batches(self.consume())

    def load(self, state: StateReader) -> None:
        """Adds the rows that `dump` wrote."""
        runs = [(partition, count) for partition, count in state.record()["runs"]]
        self.extend(state.batches(), runs)

    def _keep(self, batch: Batch) -> None:
        self.origin.file = batch.origin.file
        size = size_of(batch)
        # Not with its own origin: that would keep the bytes of the block it was read from.
        self._held.append(Batch(tuple(batch.columns), batch.rows, self.origin))  # nothing of what was read
        self.rows += len(batch)
        self.size += size
        self._held_size += size
        if self._held_size > (self._budget.spill_chunk if self._offsets else self._hold):
            self._spill()

    def _spill(self) -> None:
        """What is held goes to the file, small batches together."""
        self._file = self._file or self._budget.file()
        pieces: list[Batch] = []
        for batch in self._held:
            pieces.append(batch)
            if sum(map(size_of, pieces)) > self._budget.spill_chunk:
                self._offsets.append(self._file.write(packed(concat_batches(pieces, self.origin))))
                pieces = []
        if pieces:
            self._offsets.append(self._file.write(packed(concat_batches(pieces, self.origin))))
        self._held, self._held_size = [], 0

    def __iter__(self) -> Iterator[Batch]:
        for offset in self._offsets:
            yield self._read(offset)
        yield from self._held

    def consume(self) -> Iterator[Batch]:
        """The batches, each of which is held no longer once it is given out."""
        for offset in self._offsets:
            yield self._read(offset)
        self._held.reverse()
        while self._held:
            yield self._held.pop()

    def backwards(self) -> Iterator[Batch]:
        """The batches from the last to the first; rows within a batch stay in order."""
        yield from self._held[::-1]
        for offset in reversed(self._offsets):
            yield self._read(offset)

    def _read(self, offset: int) -> Batch:
        assert self._file is not None
        return unpacked(self._file.read(offset), self.origin)

    def close(self) -> None:
        """Gives memory and file back."""
        self._held = []
        if self._file is not None:
            self._file.close()
