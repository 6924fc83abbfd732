"""Rows with the same keys brought together, in memory within a budget, then in files.

A fold makes fewer rows of those with the same keys, which say the same. Rows beyond the budget go to files, divided by
the hashes of their keys, so that each part can be folded by itself.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import TypeAlias

import pyarrow as pa

from mangler.kernels.keys.keys import hashes
from mangler.kernels.keys.order import SortKey
from mangler.kernels.text.text_view import TooLargeError
from mangler.table.batch import Batch
from mangler.table.external_sort import ExternalSort
from mangler.table.memory_budget import MemoryBudget
from mangler.table.packing import MixedOrigin
from mangler.table.partitioned_rows import PartitionedRows
from mangler.table.spillable_rows import concat_and_clear, in_blocks, size_of
from mangler.table.state import StateReader, StateWriter

Fold: TypeAlias = Callable[[Batch], Batch]
Finish: TypeAlias = Callable[[Sequence[Batch | None]], Iterator[Batch]]
"""Makes what comes out of the tables' rows of some keys."""
CHUNK = 1 << 18
"""Rows that are folded at a time, at least."""
GROWTH = 64
"""Where folding brings little, so many times the rows are awaited; it is done before rows go to files."""
PARTITIONS, FURTHER = 64, 16
"""Parts that rows are divided into, and those that a part is divided into that is still too large: most often it is
not much too large, and many parts of few rows take long to read."""
DEEPEST = 8
"""How often parts are divided again; what is still too large then belongs to one key."""


class FoldingTable:
    """Rows of one kind, folded whenever enough have come; less often the less that brings. Without a fold all stay."""

    def __init__(self, fold: Fold | None, origin: MixedOrigin) -> None:
        self._fold, self._origin = fold, origin
        self._held: list[Batch] = []
        self.rows = 0
        self._target = CHUNK
        self._is_folded = True
        self.size = 0

    def add(self, batch: Batch) -> None:
        if not len(batch):
            return
        # Not with its own origin: that would keep the bytes of the block it was read from.
        self._held.append(Batch(tuple(batch.columns), batch.rows, self._origin))
        self.rows += len(batch)
        self.size += size_of(batch)
        self._is_folded = self._fold is None
        if self.rows >= self._target:
            self.fold()

    def fold(self) -> None:
        if self._is_folded or self._fold is None:
            return
        before = self.rows
        folded = self._fold(self._together())
        self._held, self.rows, self.size = [folded], len(folded), size_of(folded)
        self._is_folded = True
        shrank = self.rows * 2 <= before
        self._target = self.rows + max(CHUNK, self.rows) if shrank else before * GROWTH

    def whole(self, folded: bool = True) -> Batch | None:
        """All rows in one batch, folded or as they are; None where there are none."""
        if folded:
            self.fold()
        if not self._held:
            return None
        self._held = [self._together()]
        return self._held[0]

    def _together(self) -> Batch:
        try:
            return concat_and_clear(self._held, self._origin)
        except (pa.ArrowInvalid, pa.ArrowCapacityError) as error:
            raise TooLargeError(str(error)) from None

    def empty(self) -> list[Batch]:
        """The rows, which are held here no longer."""
        held, self._held, self.rows, self.size = self._held, [], 0, 0
        self._is_folded = True
        return held


class PartitionedFold:
    """Several tables of rows with the same keys, which are first in each of them, divided together.

    Where the first table has folded to a single row, or there are no keys, nothing can be divided.
    """

    def __init__(self, folds: Sequence[Fold | None], keys: int, budget: MemoryBudget, level: int = 0) -> None:
        self._folds, self._keys, self._level = folds, keys, level
        self._whole_budget = budget
        self._budget = budget.share(len(folds))
        self.origin = MixedOrigin()
        self._tables = [FoldingTable(fold, self.origin) for fold in folds]
        self._partitioned: list[PartitionedRows] = []
        self._parts = FURTHER if level else PARTITIONS
        self._came_in_order = True
        self._limit = budget.memory_limit
        """Bytes of rows in memory beyond which something is done about them."""

    @property
    def is_partitioned(self) -> bool:
        """Whether rows had to go to files."""
        return bool(self._partitioned)

    @property
    def is_in_order(self) -> bool:
        """Whether the keys are released in the order of their first rows."""
        return self._came_in_order and not self._partitioned

    def add(self, batches: Sequence[Batch]) -> None:
        """Adds rows of each table, which came together."""
        for table, batch in zip(self._tables, batches, strict=True):
            self.origin.file = self.origin.file or batch.origin.file
            table.add(batch)
        if self._size() <= self._limit:
            return
        for table in self._tables:
            table.fold()
        if self._size() <= self._limit // 4:
            return
        if self._keys and self._level < DEEPEST and self._tables[0].rows > 1:
            self._partition()
            self._limit = self._whole_budget.memory_limit // 2
        else:  # they belong to one key, and must be in memory
            self._limit = 2 * self._size()

    def _size(self) -> int:
        return sum(table.size for table in self._tables)

    def _partition(self) -> None:
        if not self._partitioned:
            budget = self._budget
            self._partitioned = [
                PartitionedRows(budget, self._parts, hold=budget.memory_limit // 2) for _ in self._tables
            ]
        for table, partitioned in zip(self._tables, self._partitioned, strict=True):
            for batch in table.empty():
                numbers = hashes(batch.columns[: self._keys], len(batch), self._level) % self._parts
                partitioned.add(batch, numbers)

    def released(self, only_first: bool = False) -> Iterator[list[Batch | None]]:
        """The tables' rows, all of the same keys together, in as many portions as they need.

        `only_first`: only the rows of the first table are folded; those of others may be, or not.
        """
        if not self._partitioned:
            yield [table.whole(not number or not only_first) for number, table in enumerate(self._tables)]
            return
        self._partition()
        for partitioned in self._partitioned:
            partitioned.spill()
        for part in range(self._parts):
            finer = PartitionedFold(self._folds, self._keys, self._whole_budget.share(2), self._level + 1)
            finer.origin.file = self.origin.file
            for number, partitioned in enumerate(self._partitioned):
                for batch in partitioned.part(part):
                    finer.add_to(number, batch)
            yield from finer.released(only_first)
        for partitioned in self._partitioned:
            partitioned.close()

    def merge(self, later: PartitionedFold) -> None:
        """Adds the rows of a fold of the same kind over later partitions, which holds them no longer."""
        self._came_in_order &= later.is_in_order
        for number in range(len(self._tables)):
            for batch in later.consume(number):
                self.add_to(number, batch)

    def consume(self, number: int) -> Iterator[Batch]:
        """The rows of one table, those of the same keys in their order; they are not held here any longer."""
        if self._partitioned:
            self._partition()
            for part in range(self._parts):
                yield from self._partitioned[number].part(part)
            self._partitioned[number].close()
        else:
            self._tables[number].fold()
            yield from self._tables[number].empty()

    def dump(self, state: StateWriter) -> None:
        """Writes all rows, which are not held here any longer."""
        state.record({"in_order": self.is_in_order})
        for number in range(len(self._tables)):
            state.batches(self.consume(number))

    def load(self, state: StateReader) -> None:
        """Adds the rows that `dump` wrote."""
        self._came_in_order &= bool(state.record()["in_order"])
        for number in range(len(self._tables)):
            for batch in state.batches():
                self.add_to(number, batch)

    def add_to(self, number: int, batch: Batch) -> None:
        """Rows of one of the tables."""
        none = [Batch((), batch.rows[:0], batch.origin)] * len(self._tables)
        none[number] = batch
        self.add(none)


def in_first_seen_order(
    tables: PartitionedFold, finish: Finish, width: int, budget: MemoryBudget
) -> Iterator[Batch]:
    """The rows that `finish` makes, in the order of the first row of each key. Of other tables than the first it gets
    rows that may still have to be folded.

    `finish` gives batches of `width` columns and, behind them, the position of that first row, which is left out of
    the result.
    """
    if tables.is_in_order:
        for portion in tables.released(only_first=True):
            for batch in finish(portion):
                yield batch.with_columns(batch.columns[:-1])
        return
    sorting = ExternalSort((width,), (SortKey(),), budget)
    for portion in tables.released(only_first=True):
        for batch in in_blocks(finish(portion), tables.origin):
            sorting.add(batch)
    for batch in sorting.sorted():
        yield batch.with_columns(batch.columns[:-1])
