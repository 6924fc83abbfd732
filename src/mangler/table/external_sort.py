"""Rows sorted by some of their columns, within a budget of memory."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.order import Order, SortKey, classes, row_numbers, sort_order
from mangler.table.batch import Batch
from mangler.table.external_reorder import external_reorder
from mangler.table.memory_budget import LARGEST_IN_MEMORY, MemoryBudget
from mangler.table.partitioned_rows import PartitionedRows, RowPartition
from mangler.table.spillable_rows import SpillableRows, in_blocks, size_of, size_of_column

SAMPLE = 1024
"""Rows of each batch whose keys say where ranges are split."""
MOST_SPLITTERS = 64


class ExternalSort:
    """Sorts rows that are added in their order; rows with equal keys keep that order.

    Rows in memory are sorted at once. When there is no more memory they are divided into ranges between values of a
    sample, later rows too, and one range is sorted after the other. Rows equal to a splitter make a range of their
    own, which needs no sorting, however large it is.
    """

    def __init__(self, indices: Sequence[int], keys: Sequence[SortKey], budget: MemoryBudget) -> None:
        self._indices, self._keys, self._budget = indices, keys, budget
        self._rows = SpillableRows(budget, hold=budget.unjoined_limit)
        self._sizes: npt.NDArray[np.int64] | None = None
        """Bytes of each column: many cells of one may come to lie together."""
        self._ranges: _SortRanges | None = None

    def add(self, batch: Batch) -> None:
        if self._ranges is not None:
            self._ranges.add(batch)
            return
        sizes = np.array([size_of_column(column) for column in batch.columns], np.int64)
        self._sizes = sizes if self._sizes is None else self._sizes + sizes
        is_full = self._rows.size + size_of(batch) > self._budget.unjoined_limit
        if self._rows.rows and (is_full or self._sizes.max() > LARGEST_IN_MEMORY):
            self._ranges = self._partition(self._rows)
            self._ranges.add(batch)
        else:
            self._rows.add(batch)

    def consume(self) -> Iterator[Batch]:
        """All rows as they are, those with equal keys in their order; they are not held any longer."""
        if self._ranges is None:
            yield from self._rows.consume()
            return
        for number in range(self._ranges.count):
            yield from self._ranges.partitioned.part(number)
        self._ranges.partitioned.close()

    def sorted(self) -> Iterator[Batch]:
        """The rows in their new order, in batches of a block; they are not held any longer."""
        if self._ranges is None:
            return in_blocks(self._sorted(self._rows), self._rows.origin)
        return in_blocks(self._by_ranges(self._ranges), self._ranges.partitioned.origin)

    def _keys_of(self, batch: Batch) -> list[ColumnArray]:
        return [batch.columns[index] for index in self._indices]

    def _sorted(self, rows: SpillableRows | RowPartition) -> Iterator[Batch]:
        limit = self._budget.unjoined_limit if rows is self._rows else self._budget.memory_limit
        if rows.size > limit:
            yield from self._by_ranges(self._partition(rows))
            return
        keys = [self._keys_of(batch) for batch in rows]
        if keys:
            yield from external_reorder(rows, self._order(keys), self._budget)

    def _order(self, keys: list[list[ColumnArray]]) -> Order:
        """The order of the keys of batches; the list is empty then."""
        columns = [pa.concat_arrays(pieces) for pieces in zip(*keys, strict=True)]
        keys.clear()
        return sort_order(columns, self._keys)

    def _partition(self, rows: SpillableRows | RowPartition) -> _SortRanges:
        """These rows divided into ranges; they are not held here any longer."""
        ranges = _SortRanges(self._indices, self._keys, self._splitters(rows), self._budget)
        for batch in rows.consume():
            ranges.add(batch)
        return ranges

    def _by_ranges(self, ranges: _SortRanges) -> Iterator[Batch]:
        ranges.partitioned.spill()
        for number in range(ranges.count):
            part = ranges.partitioned.part(number)
            if number % 2:
                yield from part
            else:
                yield from self._sorted(part)
        ranges.partitioned.close()

    def _splitters(self, rows: Iterable[Batch]) -> list[ColumnArray]:
        """The keys of some rows, all different, with about as many rows between each two."""
        samples = [[column.take(_spread(batch)) for column in self._keys_of(batch)] for batch in rows]
        columns = [pa.concat_arrays(pieces) for pieces in zip(*samples, strict=True)]
        order = sort_order(columns, self._keys)
        chosen = order[np.linspace(0, len(order) - 1, MOST_SPLITTERS + 2).astype(np.intp)[1:-1]]
        arranged = [column.take(from_numpy(chosen)) for column in columns]
        numbers = np.stack(row_numbers(arranged, self._keys), axis=1)
        differs = np.append(True, (numbers[1:] != numbers[:-1]).any(axis=1))
        return [column.filter(from_numpy(differs)) for column in arranged]


def _spread(batch: Batch) -> ColumnArray:
    """The indexes of some rows from all over a batch."""
    return pa.array(np.unique(np.linspace(0, len(batch) - 1, min(SAMPLE, len(batch))).astype(np.intp)))


class _SortRanges:
    """Rows divided by where they are between splitters: rows equal to a splitter go to an odd range."""

    def __init__(
        self,
        indices: Sequence[int],
        keys: Sequence[SortKey],
        splitters: list[ColumnArray],
        budget: MemoryBudget,
    ) -> None:
        self._indices, self._keys, self._splitters = indices, keys, splitters
        self.count = 2 * len(splitters[0]) + 1
        self.partitioned = PartitionedRows(budget, self.count, hold=budget.memory_limit)

    def add(self, batch: Batch) -> None:
        if len(batch):
            columns = [batch.columns[index] for index in self._indices]
            self.partitioned.add(batch, classes(columns, self._splitters, self._keys))
