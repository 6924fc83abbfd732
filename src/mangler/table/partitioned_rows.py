"""Rows dealt out to parts: in memory while there is room, then in one file.

A batch is put in the order of its parts by one take, and each part of it is a slice: a take a part would cost as much
again for every part.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from mangler.kernels.keys.group_order import stable_group_order
from mangler.kernels.keys.keys import Codes
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.memory_budget import MemoryBudget, SpoolFile
from mangler.table.packing import MixedOrigin, packed, unpacked
from mangler.table.spillable_rows import concat_batches, size_of


class PartitionedRows:
    """`hold` is how many bytes are held in memory; None: all."""

    def __init__(self, budget: MemoryBudget, parts: int, hold: int | None) -> None:
        self._budget, self._hold = budget, hold
        self._file: SpoolFile | None = None
        self._held: list[tuple[Batch, Codes]] = []
        """Batches in the order of their parts, and where each part starts."""
        self._held_size = 0
        self._offsets: list[list[int]] = [[] for _ in range(parts)]
        self._spilled = np.zeros(parts, np.int64)
        self.origin = MixedOrigin()

    def add(self, batch: Batch, numbers: Any) -> None:
        """Each row to the part of its number, in their order."""
        if len(batch):
            self.keep(*self.arranged(batch, numbers))

    def arranged(self, batch: Batch, numbers: Any) -> tuple[Batch, Codes]:
        """A batch in the order of its parts, and where each part starts; from several threads at once."""
        codes = np.asarray(numbers).astype(np.int64)
        order = stable_group_order(codes)
        starts = np.searchsorted(codes[order], np.arange(len(self._offsets) + 1))
        return batch.take(order).made(), starts

    def keep(self, batch: Batch, starts: Codes) -> None:
        """Adds what `arranged` gave."""
        self.origin.file = self.origin.file or batch.origin.file
        self._held.append((Batch(batch.columns, batch.rows, self.origin), starts))
        self._held_size += size_of(batch)
        if self._hold is not None and self._held_size > self._hold:
            self.spill()

    def spill(self) -> None:
        """What is held goes to the file, a piece a part."""
        self._file = self._file or self._budget.file()
        for number, offsets in enumerate(self._offsets):
            slices = list(self._slices(number))
            if slices:
                piece = concat_batches(slices, self.origin)
                self._spilled[number] += size_of(piece)
                offsets.append(self._file.write(packed(piece)))
        self._held, self._held_size = [], 0

    def _slices(self, number: int) -> Iterator[Batch]:
        for batch, starts in self._held:
            start, end = int(starts[number]), int(starts[number + 1])
            if end > start:
                yield batch.slice(start, end - start)

    def part(self, number: int) -> RowPartition:
        return RowPartition(self, number)

    def batches(self, number: int) -> Iterator[Batch]:
        for offset in self._offsets[number]:
            assert self._file is not None
            yield unpacked(self._file.read(offset), self.origin)
        yield from self._slices(number)

    def size(self, number: int) -> int:
        """The bytes of a part."""
        return int(self._spilled[number]) + sum(map(size_of, self._slices(number)))

    def close(self) -> None:
        """Gives memory and file back."""
        self._held = []
        if self._file is not None:
            self._file.close()


@dataclass(frozen=True)
class RowPartition:
    """The rows of one part, in the order in which they came."""

    partitioned: PartitionedRows
    number: int

    @property
    def size(self) -> int:
        return self.partitioned.size(self.number)

    @property
    def origin(self) -> MixedOrigin:
        return self.partitioned.origin

    def __iter__(self) -> Iterator[Batch]:
        return self.partitioned.batches(self.number)

    consume = __iter__
