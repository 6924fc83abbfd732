"""Keys that were seen, over any number of batches: which rows have one that an earlier row has, and which row that is.

Of each key 128 bits of a hash are kept and the number of its first row, 24 bytes whatever the key is like; among a
thousand million keys two different ones are taken for the same with a chance of less than one in 10^20.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from hashlib import blake2b
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.keys import MOST_WORDS, WORD, hashes
from mangler.kernels.text_view import view

Rows = npt.NDArray[np.int64]
Hashes = npt.NDArray[np.uint64]
LEVELS = (17, 41)
NONE = -1


@dataclass(frozen=True)
class _Run:
    """Keys in the order of their first hash."""

    first: Hashes
    second: Hashes
    rows: Rows


@dataclass
class SeenKeys:
    """What is carried from batch to batch."""

    runs: list[_Run] = field(default_factory=list)

    def meet(self, columns: Sequence[Any], rows: Rows) -> Rows:
        """For each row the row that had its key first, in this batch or before; -1 for the first of each key."""
        count = len(rows)
        whole = [_whole(column) for column in columns]
        first, second = (hashes(whole, count, level) for level in LEVELS)
        order = np.lexsort((np.arange(count), second, first))
        sorted_first, sorted_second = first[order], second[order]
        opens = np.ones(count, np.bool_)
        opens[1:] = (sorted_first[1:] != sorted_first[:-1]) | (sorted_second[1:] != sorted_second[:-1])
        heads = np.flatnonzero(opens)
        earlier = self._look_up(sorted_first[heads], sorted_second[heads])
        fresh = earlier == NONE
        self._add(_Run(sorted_first[heads][fresh], sorted_second[heads][fresh], rows[order[heads]][fresh]))
        group = np.cumsum(opens) - 1
        known = np.where(fresh, rows[order[heads]], earlier)[group]
        is_first = opens & fresh[group]
        out = np.empty(count, np.int64)
        out[order] = np.where(is_first, NONE, known)
        return out

    def _look_up(self, first: Hashes, second: Hashes) -> Rows:
        found = np.full(len(first), NONE, np.int64)
        for run in self.runs:
            at = np.searchsorted(run.first, first)
            inside = np.minimum(at, len(run.first) - 1)
            hit = (run.first[inside] == first) & (run.second[inside] == second)
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


def _whole(column: Any) -> Any:
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
