"""`dedupe` where rows wait until all were seen: the last of those that are alike stays, or memory is short."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mangler.kernels.keys.keys import folded, one_of_each
from mangler.kernels.text.text_view import Flags
from mangler.late_dataclass import dataclass
from mangler.steps.shared.case_twins import CaseTwins
from mangler.table.batch import Batch
from mangler.table.contract import Gathering
from mangler.table.in_order import in_order
from mangler.table.memory_budget import MemoryBudget
from mangler.table.partitioned_fold import PartitionedFold
from mangler.table.positions import indexes_of, positions_of
from mangler.table.spillable_rows import SpillableRows, in_blocks
from mangler.table.state import StateReader, StateWriter
from mangler.table.tally import Tally


@dataclass(frozen=True)
class Compared:
    """What of rows is compared, and which of them stays."""

    indices: tuple[int, ...]
    last: bool
    anycase: bool


class Deduping(Gathering):
    """The rows wait in their order; of their keys, each with the position of its row, one per key is kept."""

    def __init__(self, compared: Compared, budget: MemoryBudget, twins: CaseTwins | None = None) -> None:
        """`twins` has taken the keys of other rows that are alike to none of these."""
        self._compared, self._threads = compared, budget.threads
        self._twins = twins or CaseTwins(wanted=not compared.anycase)
        self._rows = SpillableRows(budget.share(2))
        self._keys = PartitionedFold([self._fold], len(compared.indices), budget.share(2))
        self.tally = Tally()

    def absorb(self, batch: Batch, partition: int) -> None:
        self.tally.rows_in += len(batch)
        self._rows.add(batch, partition)
        keys = tuple(folded(batch.columns[index], self._compared.anycase) for index in self._compared.indices)
        self._keys.add([Batch(keys, positions_of(partition, len(batch)), batch.origin)])

    def merge(self, later: Deduping) -> None:
        self.tally.add(later.tally)
        self._rows.extend(later._rows.consume(), later._rows.runs)
        self._keys.merge(later._keys)

    def dump(self, state: StateWriter) -> None:
        state.record(self.tally.to_record())
        self._rows.dump(state)
        self._keys.dump(state)

    def load(self, state: StateReader) -> None:
        self.tally.add(Tally.from_record(state.record()))
        self._rows.load(state)
        self._keys.load(state)

    def _fold(self, batch: Batch) -> Batch:
        rows = one_of_each(batch.columns, len(batch), self._compared.last)
        if len(rows) == len(batch):
            return batch
        stays = np.zeros(len(batch), np.bool_)
        stays[rows] = True
        return batch.filter(stays)

    def release(self) -> Iterator[Batch]:
        stays = np.zeros(self._rows.rows, np.bool_)
        for (keys,) in self._keys.released():
            if keys is not None:
                self._twins.add(keys.columns)
                stays[indexes_of(keys.rows, self._rows.runs)] = True
        self._twins.note(self.tally)
        self.tally.rows_out = int(np.count_nonzero(stays))
        staying = in_order(self._with_flags(stays), lambda one: one[0].filter(one[1]), self._threads)
        yield from in_blocks(staying, self._rows.origin)
        self._rows.close()

    def _with_flags(self, stays: Flags) -> Iterator[tuple[Batch, Flags]]:
        at = 0
        for batch in self._rows.consume():
            yield batch, stays[at : at + len(batch)]
            at += len(batch)
