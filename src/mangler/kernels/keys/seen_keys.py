"""Where hashes of keys are kept, each with its first row: in a table by the compiled kernel, in sorted runs without it.

The hashes of the two are different ones, and so is what they take: what is found is the same.
"""

from __future__ import annotations

from collections.abc import Sequence
from hashlib import blake2b

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.hashed_keys import Hashes, Rows, hashes_of, numbered
from mangler.kernels.keys.keys import MOST_WORDS, WORD, hashes
from mangler.kernels.text.text_view import view
from mangler.late_dataclass import dataclass

LEVELS = (17, 41)
NONE = -1
SMALLEST = 1 << 12
"""Places of a table, at least."""
BYTES_OF_PLACE = 24


@dataclass(frozen=True)
class Distinct:
    """The keys of some rows."""

    keys: Hashes
    """Each key once."""
    heads: Rows
    """The place, from 0, of the row that has it first."""
    numbers: Rows
    """For each row which of the keys it has, from 0."""


def hashed(columns: Sequence[ColumnArray], count: int) -> Distinct:
    """The keys of rows, each of all columns together; null is a value like others."""
    if compiled.seen is None:
        return _by_sorting(columns, count)
    first, second = hashes_of(columns, count)
    numbers, heads = numbered((first, second))
    return Distinct((first[heads], second[heads]), heads, numbers)


def _with_room(known: npt.NDArray[np.uint64], count: int, needed: int) -> npt.NDArray[np.uint64]:
    """The same with room for more keys. Room that nothing was written to yet costs no memory: its pages come when they
    are used."""
    more = np.empty((len(known), max(SMALLEST, 2 * needed)), np.uint64)
    more[:, :count] = known[:, :count]
    return more


def _bytes(places: npt.NDArray[np.uint64], known: npt.NDArray[np.uint64], count: int) -> int:
    """Bytes in memory, of so many keys."""
    return int(places.nbytes) + len(known) * count * known.itemsize if count else 0


class SeenInTable:
    """Keys one after the other, and a table that has the number of each at the place that its hash names, or behind it.

    At most two thirds of the table are taken.
    """

    def __init__(self) -> None:
        self._places = np.zeros(SMALLEST, np.uint64)
        self._known = np.zeros((3, 0), np.uint64)
        """The halves of each key, and its row; with room for more of them."""
        self._count = 0

    @property
    def size(self) -> int:
        return _bytes(self._places, self._known, self._count)

    def look_up(self, keys: Hashes) -> Rows:
        assert compiled.seen is not None
        first, second, rows = self._known
        numbers: Rows = compiled.seen.found(self._places, first, second, *keys)
        return np.where(numbers >= 0, rows.view(np.int64)[numbers], NONE) if self._count else numbers

    def add(self, keys: Hashes, rows: Rows) -> None:
        assert compiled.seen is not None
        start, count = self._count, self._count + len(rows)
        if count > self._known.shape[1]:
            self._known = _with_room(self._known, start, count)
        first, second, own_rows = self._known
        first[start:count], second[start:count], own_rows[start:count] = *keys, rows.view(np.uint64)
        if 3 * count > 2 * len(self._places):
            # Made anew of the keys: the one that is too small can go before.
            self._places = np.zeros(0, np.uint64)
            self._places, start = np.zeros(1 << (3 * count // 2).bit_length(), np.uint64), 0
        compiled.seen.put(self._places, first[:count], second[:count], start)
        self._count = count

    def all(self) -> tuple[Hashes, Rows]:
        first, second, rows = self._known[:, : self._count]
        return (first, second), rows.view(np.int64)


class NumberedKeys:
    """Keys with their numbers, in the order in which they come first. Needs the compiled kernel."""

    def __init__(self) -> None:
        self._places = np.zeros(SMALLEST, np.uint64)
        self._known = np.zeros((2, 0), np.uint64)
        """The halves of each key, with room for more of them."""
        self.count = 0

    @property
    def size(self) -> int:
        """Bytes in memory."""
        return _bytes(self._places, self._known, self.count)

    def numbers(self, columns: Sequence[ColumnArray], count: int) -> tuple[Rows, Rows]:
        """The number of each row's key, and the rows that have a key first; null is a value like others."""
        assert compiled.seen is not None
        keys = hashes_of(columns, count)
        numbers, heads = np.empty(count, np.int64), np.empty(count, np.int64)
        done, before = 0, self.count
        while done < count:
            self._make_room()
            new = heads[self.count - before :]
            done, self.count = compiled.seen.numbered_on(
                self._places, *self._known, self.count, *keys, done, numbers, new
            )
        return numbers, heads[: self.count - before].copy()

    def _make_room(self) -> None:
        """For more keys, where what there is is full."""
        if self.count >= self._known.shape[1]:
            self._known = _with_room(self._known, self.count, self.count + 1)
        if self.count >= 2 * len(self._places) // 3:
            assert compiled.seen is not None
            # Made anew of the keys: the one that is too small can go before.
            self._places = np.zeros(0, np.uint64)
            self._places = np.zeros(1 << (3 * self.count).bit_length(), np.uint64)
            first, second = self._known[:, : self.count]
            compiled.seen.put(self._places, first, second, 0)


@dataclass(frozen=True)
class _Run:
    """Keys in the order of their first hash, each once, with the number of its first row."""

    first: npt.NDArray[np.uint64]
    second: npt.NDArray[np.uint64]
    rows: Rows


class SeenInRuns:
    """Keys in sorted runs, of which there are only a few."""

    def __init__(self) -> None:
        self.runs: list[_Run] = []

    @property
    def size(self) -> int:
        return sum(BYTES_OF_PLACE * len(run.rows) for run in self.runs)

    def look_up(self, keys: Hashes) -> Rows:
        first, second = keys
        found = np.full(len(first), NONE, np.int64)
        for run in self.runs:
            at = np.searchsorted(run.first, first)
            inside = np.minimum(at, len(run.first) - 1)
            hit = (run.first[inside] == first) & (run.second[inside] == second)
            found[hit] = run.rows[inside[hit]]
        return found

    def add(self, keys: Hashes, rows: Rows) -> None:
        """Runs of like length are merged."""
        if not len(rows):
            return
        run = _Run(*keys, rows)
        merged = [run]
        while self.runs and len(self.runs[-1].rows) <= 2 * sum(len(one.rows) for one in merged):
            merged.insert(0, self.runs.pop())
        first = np.concatenate([one.first for one in merged])
        order = np.argsort(first, kind="stable")
        second = np.concatenate([one.second for one in merged])[order]
        self.runs.append(_Run(first[order], second, np.concatenate([one.rows for one in merged])[order]))

    def all(self) -> tuple[Hashes, Rows]:
        none = np.empty(0, np.uint64)
        first = np.concatenate([none, *(run.first for run in self.runs)])
        second = np.concatenate([none, *(run.second for run in self.runs)])
        return (first, second), np.concatenate([np.empty(0, np.int64), *(run.rows for run in self.runs)])


def _by_sorting(columns: Sequence[ColumnArray], count: int) -> Distinct:
    whole = [_whole(column) for column in columns]
    first, second = (hashes(whole, count, level) for level in LEVELS)
    order = np.lexsort((np.arange(count), second, first))
    sorted_first, sorted_second = first[order], second[order]
    opens = np.ones(count, np.bool_)
    opens[1:] = (sorted_first[1:] != sorted_first[:-1]) | (sorted_second[1:] != sorted_second[:-1])
    heads = order[opens]
    numbers = np.empty(count, np.int64)
    numbers[order] = np.cumsum(opens) - 1
    return Distinct((first[heads], second[heads]), heads, numbers)


def _whole(column: ColumnArray) -> ColumnArray:
    """The column with a digest in the place of texts longer than the hash looks at."""
    if not pa.types.is_string(column.type):
        return column
    long = view(column).only_valid(view(column).lengths > MOST_WORDS * WORD)
    if not long.any():
        return column
    flags = from_numpy(long)
    digests = [
        blake2b(text.encode(), digest_size=30).hexdigest() for text in column.filter(flags).to_pylist()
    ]
    return pc.replace_with_mask(column, flags, pa.array(digests, pa.string()))
