"""`dedupe`: rows go on as they come for as long as their keys fit in memory; later ones wait until all were seen."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from mangler.kernels.keys.first_seen import NONE, FirstSeenIndex
from mangler.kernels.keys.keys import folded
from mangler.kernels.taking import take
from mangler.steps.dedupe.all_at_once import Compared, Deduping
from mangler.steps.shared.case_twins import CaseTwins
from mangler.table.batch import Batch
from mangler.table.contract import Early
from mangler.table.memory_budget import MemoryBudget
from mangler.table.packing import MixedOrigin
from mangler.table.schema import Schema
from mangler.table.tally import Tally


class DedupeEarly(Early[FirstSeenIndex]):
    """The first row of each key goes on at once.

    When the keys take their share of the memory no more are added: a row with one of them is dropped as it comes, and
    all others are gathered. Their keys are not among those, so that they need only be compared with each other.
    """

    def __init__(self, schema: Schema, compared: Compared, budget: MemoryBudget) -> None:
        self._schema, self._compared, self._budget = schema, compared, budget
        # The keys take half of the room at most: they grow to twice their size, and are there twice meanwhile.
        self._most = budget.share(2).unjoined_limit // 3
        self._twins = CaseTwins(wanted=not compared.anycase)
        self._waiting: Deduping | None = None
        self._batches = 0
        self._tally = Tally()

    @property
    def schema(self) -> Schema:
        return self._schema

    @property
    def tally(self) -> Tally:
        return self._tally

    def initial(self) -> FirstSeenIndex:
        return FirstSeenIndex()

    def summarise(self, batch: Batch) -> FirstSeenIndex:
        columns = [folded(batch.columns[index], self._compared.anycase) for index in self._compared.indices]
        return FirstSeenIndex.of(columns, batch.rows)

    def combine(self, earlier: FirstSeenIndex, later: FirstSeenIndex) -> FirstSeenIndex:
        if self._waiting is None:
            earlier.extend(later)
        return earlier

    def apply(self, batch: Batch, before: FirstSeenIndex, own: FirstSeenIndex) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch))
        fresh = before.first_row_of(own) == NONE
        if self._waiting is None and before.size > self._most:
            room = self._budget.without(before.size)  # no more are added
            self._waiting = Deduping(self._compared, room, self._twins)
        out = batch if fresh.all() else batch.filter(fresh)
        out = replace(out, origin=MixedOrigin(batch.origin.file))
        if self._waiting is not None:
            self._waiting.absorb(out.made(), self._batches)
            self._batches += 1
            return out.take(np.empty(0, np.int64)), tally
        if self._twins.are_wanted:
            places = np.flatnonzero(fresh)
            self._twins.add(
                [folded(take(batch.columns[index], places), False) for index in self._compared.indices]
            )
        tally.rows_out = len(out)
        return out, tally

    def held(self) -> Iterator[Batch]:
        if self._waiting is None:
            self._twins.note(self._tally)
            return
        yield from self._waiting.release()
        self._tally = replace(self._waiting.tally, rows_in=0)  # they were counted as they came
