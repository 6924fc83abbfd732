"""Keys that were seen, over any number of batches: which rows have one that an earlier row has, and which row that is.

Of each key 128 bits of a hash are kept and the number of its first row, whatever the key is like; among a thousand
million keys two different ones are taken for the same with a chance of less than one in 10^20.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field
from typing import Protocol

import numpy as np

from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.hashed_keys import Hashes, Rows
from mangler.kernels.keys.seen_keys import Distinct, SeenInRuns, SeenInTable, hashed
from mangler.late_dataclass import dataclass

NONE = -1


class SeenKeys(Protocol):
    """Hashes of keys, each with the number of its first row."""

    @property
    def size(self) -> int:
        """Bytes that they take."""
        ...

    def look_up(self, keys: Hashes) -> Rows:
        """The first row of each of these keys; -1 for those that were not seen."""
        ...

    def add(self, keys: Hashes, rows: Rows) -> None:
        """Adds keys that are all different, and that were not seen before."""
        ...

    def all(self) -> tuple[Hashes, Rows]:
        """The keys, and the first row of each."""
        ...


@dataclass
class _Batch:
    """The keys of the rows of one batch."""

    distinct: Distinct
    rows: Rows
    """The first row of each key."""
    looked_up: tuple[FirstSeenIndex, Rows] | None = None
    """What another index knew of each key when it was asked last."""


@dataclass
class FirstSeenIndex:
    """The keys of some rows, each with its first row."""

    seen: SeenKeys = field(default_factory=lambda: SeenInRuns() if compiled.seen is None else SeenInTable())
    batch: _Batch | None = None
    """Of an index of one batch, which others are asked about; others have none."""

    @classmethod
    def of(cls, columns: Sequence[ColumnArray], rows: Rows) -> FirstSeenIndex:
        """The index of the rows of one batch, whose keys are in these columns."""
        distinct = hashed(columns, len(rows))
        return cls(batch=_Batch(distinct, rows[distinct.heads]))

    @property
    def size(self) -> int:
        """Bytes that the keys take."""
        return self.seen.size

    def first_row_of(self, own: FirstSeenIndex) -> Rows:
        """For each row of a later batch the row that had its key first, here or there; -1 for the first of each key."""
        batch = own.batch
        assert batch is not None
        self._take_in_own()
        earlier = self.seen.look_up(batch.distinct.keys)
        batch.looked_up = (self, earlier)
        fresh = earlier == NONE
        found: Rows = np.where(fresh, batch.rows, earlier)[batch.distinct.numbers]
        found[batch.distinct.heads[fresh]] = NONE
        return found

    def extend(self, later: FirstSeenIndex) -> None:
        """Adds the keys of later rows."""
        self._take_in_own()
        looked_up = None
        if later.batch is not None:
            keys, rows, looked_up = later.batch.distinct.keys, later.batch.rows, later.batch.looked_up
        else:
            keys, rows = later.seen.all()
        asked = looked_up is not None and looked_up[0] is self
        fresh = (looked_up[1] if asked and looked_up is not None else self.seen.look_up(keys)) == NONE
        if not fresh.all():
            keys, rows = (keys[0][fresh], keys[1][fresh]), rows[fresh]
        self.seen.add(keys, rows)

    def _take_in_own(self) -> None:
        """The keys of an index of one batch become keys like others: it is not one of a batch any more."""
        if self.batch is not None:
            self.seen.add(self.batch.distinct.keys, self.batch.rows)
            self.batch = None
