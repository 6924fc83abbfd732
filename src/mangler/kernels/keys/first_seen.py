"""Keys that were seen, over any number of batches: which rows have one that an earlier row has, and which row that is.

Of each key 128 bits of a hash are kept and the number of its first row, 24 bytes whatever the key is like; among a
thousand million keys two different ones are taken for the same with a chance of less than one in 10^20.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field
from hashlib import blake2b

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.keys import MOST_WORDS, WORD, hashes
from mangler.kernels.text.text_view import view
from mangler.late_dataclass import dataclass

Rows = npt.NDArray[np.int64]
Hashes = npt.NDArray[np.uint64]
LEVELS = (17, 41)
NONE = -1


@dataclass(frozen=True)
class _Run:
    """Keys in the order of their first hash, each once, with the number of its first row."""

    first: Hashes
    second: Hashes
    rows: Rows

    def only(self, flags: npt.NDArray[np.bool_]) -> _Run:
        return _Run(self.first[flags], self.second[flags], self.rows[flags])


@dataclass
class _Batch:
    """The rows of one batch in the order of their hashes: which open a key, and the number of each row's key."""

    order: Rows
    opens: npt.NDArray[np.bool_]
    keys: Rows
    earlier: tuple[FirstSeenIndex, Rows] | None = None
    """What a look into another index found for each key."""


@dataclass
class FirstSeenIndex:
    """The keys of some rows, each with its first row."""

    runs: list[_Run] = field(default_factory=list)
    batch: _Batch | None = None
    """Of an index of one batch; others have none."""

    @classmethod
    def of(cls, columns: Sequence[ColumnArray], rows: Rows) -> FirstSeenIndex:
        """The index of the rows of one batch, whose keys are in these columns."""
        count = len(rows)
        whole = [_whole(column) for column in columns]
        first, second = (hashes(whole, count, level) for level in LEVELS)
        order = np.lexsort((np.arange(count), second, first))
        sorted_first, sorted_second = first[order], second[order]
        opens = np.ones(count, np.bool_)
        opens[1:] = (sorted_first[1:] != sorted_first[:-1]) | (sorted_second[1:] != sorted_second[:-1])
        heads = np.flatnonzero(opens)
        run = _Run(sorted_first[heads], sorted_second[heads], rows[order[heads]])
        return cls([run], _Batch(order, opens, np.cumsum(opens) - 1))

    @property
    def size(self) -> int:
        """Bytes that the keys take."""
        return sum(24 * len(run.first) for run in self.runs)

    def first_row_of(self, own: FirstSeenIndex) -> Rows:
        """For each row of a later batch the row that had its key first, here or there; -1 for the first of each key."""
        assert own.batch is not None
        (run,), batch = own.runs, own.batch
        earlier = self._look_up(run)
        batch.earlier = (self, earlier)
        fresh = earlier == NONE
        known = np.where(fresh, run.rows, earlier)[batch.keys]
        out = np.empty(len(batch.order), np.int64)
        out[batch.order] = np.where(batch.opens & fresh[batch.keys], NONE, known)
        return out

    def extend(self, later: FirstSeenIndex) -> None:
        """Adds the keys of later rows."""
        for run in later.runs:
            looked = later.batch.earlier if later.batch is not None else None
            earlier = looked[1] if looked is not None and looked[0] is self else self._look_up(run)
            self._add(run.only(earlier == NONE))
        self.batch = None

    def _look_up(self, wanted: _Run) -> Rows:
        found = np.full(len(wanted.first), NONE, np.int64)
        for run in self.runs:
            if not len(run.first):
                continue  # of a batch without rows
            at = np.searchsorted(run.first, wanted.first)
            inside = np.minimum(at, len(run.first) - 1)
            hit = (run.first[inside] == wanted.first) & (run.second[inside] == wanted.second)
            found[hit] = run.rows[inside[hit]]
        return found

    def _add(self, run: _Run) -> None:
        """Runs of like length are merged, so that there are only a few."""
        if not len(run.first):
            return
        while self.runs and len(self.runs[-1].first) <= 2 * len(run.first):
            last = self.runs.pop()
            first = np.concatenate((last.first, run.first))
            order = np.argsort(first, kind="stable")
            run = _Run(
                first[order],
                np.concatenate((last.second, run.second))[order],
                np.concatenate((last.rows, run.rows))[order],
            )
        self.runs.append(run)


def _whole(column: ColumnArray) -> ColumnArray:
    """The column with a digest in the place of texts longer than the hash looks at."""
    if not pa.types.is_string(column.type):
        return column
    long = view(column).only_valid(view(column).lengths > MOST_WORDS * WORD)
    if not long.any():
        return column
    flags = pa.array(long)
    digests = [
        blake2b(text.encode(), digest_size=30).hexdigest() for text in column.filter(flags).to_pylist()
    ]
    return pc.replace_with_mask(column, flags, pa.array(digests, pa.string()))
