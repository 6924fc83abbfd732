"""The distinct values of a column with how many cells have each: all of them up to a bound, then a fair sample.

Beyond the bound a value is kept when its hash is among the lowest: whether it is kept depends on nothing but the
value itself, so all its cells were counted, and the share of kept values estimates how many there are (adaptive
sampling, M. Wegman; P. Flajolet, "On adaptive sampling", 1990). Values that many cells had by then are kept too.
"""

from __future__ import annotations

from dataclasses import field

import numpy as np
import pyarrow as pa

from mangler.insight.columns.facts import Counts
from mangler.kernels.arrow import from_numpy
from mangler.kernels.keys.keys import hashes
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.text_view import Flags, TextArray, view
from mangler.late_dataclass import dataclass

MOST_VALUES = 100_000
"""Distinct values of a column that are counted exactly."""
LEAST_VALUES = 2_000
"""The same of a table with very many columns."""
ALL_VALUES = 4_000_000
"""Distinct values of all columns together."""
BYTES_A_VALUE = 200
FREQUENT = 50
"""One value of the most frequent is kept for so many of the bound."""
LONG = 4_096
"""Bytes of a value that is counted, and not kept."""
HIGHEST = 1 << 64


def bound_for(columns: int) -> int:
    """How many distinct values of each column are counted exactly in a table of so many."""
    return max(LEAST_VALUES, min(MOST_VALUES, ALL_VALUES // max(columns, 1)))


@dataclass
class Values:
    """`values[i]` is in `counts[i]` cells; no value is null."""

    bound: int = MOST_VALUES
    values: TextArray = field(default_factory=lambda: pa.array([], pa.string()))
    counts: Counts = field(default_factory=lambda: np.zeros(0, np.int64))
    limit: int = HIGHEST
    """Values whose hash is below are kept."""
    long: set[bytes] = field(default_factory=set)
    """Digests of values too long to be kept."""
    _waiting: list[tuple[TextArray, Counts]] = field(default_factory=list)
    _waiting_values: int = 0
    _waiting_bytes: int = 0

    @property
    def exact(self) -> bool:
        """Whether every value is there with all its cells."""
        return self.limit == HIGHEST and not self.long

    @property
    def distinct(self) -> int:
        """How many distinct values there are; estimated where not all are kept."""
        if self.limit == HIGHEST:
            return len(self.values) + len(self.long)
        kept = int(np.count_nonzero(self._low(self.values)))
        return round(kept * (HIGHEST / self.limit)) + len(self.long)

    def absorb(self, values: TextArray, counts: Counts) -> None:
        """Takes further values, each once, with their cells."""
        lengths = view(values).lengths
        if len(lengths) and int(lengths.max()) > LONG:
            values, counts = self._without_long(values, counts, lengths > LONG)
        if self.limit != HIGHEST and len(values):
            # The others are only worth taking while they may be frequent.
            worth = self._low(values) | (counts > 1)
            if not worth.all():
                values, counts = values.filter(from_numpy(worth)), counts[worth]
        self._waiting.append((values, counts))
        self._waiting_values += len(values)
        self._waiting_bytes += len(view(values).data)
        most = max(self.bound // 2, len(self.values))
        if self._waiting_values > most or self._waiting_bytes > most * BYTES_A_VALUE:
            self.settle()

    def settle(self) -> None:
        """Puts what was taken together, and keeps no more of it than the bound allows."""
        if not self._waiting:
            return
        pieces = [(self.values, self.counts), *self._waiting]
        self._waiting, self._waiting_values, self._waiting_bytes = [], 0, 0
        encoded = as_dictionary(pa.concat_arrays([values for values, _ in pieces]))
        every = np.concatenate([counts for _, counts in pieces])
        self.values = encoded.dictionary
        self.counts = np.bincount(np.asarray(encoded.indices), every, len(self.values)).astype(np.int64)
        if self.limit != HIGHEST or self._too_many():
            self._thin_out()

    def _too_many(self) -> bool:
        return len(self.values) > self.bound or len(view(self.values).data) > self.bound * BYTES_A_VALUE

    def _thin_out(self) -> None:
        """Halves the share of kept values until half the bound would do; and keeps the most frequent beside them.

        However the values came, the share is the same in the end: it depends on how many there are with low hashes.
        """
        numbers = hashes([self.values], len(self.values))
        frequent = np.zeros(len(self.values), np.bool_)
        most = np.argsort(-self.counts, kind="stable")[: self.bound // FREQUENT]
        frequent[most[self.counts[most] > 1]] = True
        lengths = view(self.values).lengths
        keep = np.ones(len(numbers), np.bool_)
        if self.limit != HIGHEST:
            keep = numbers < np.uint64(self.limit)
        while keep.sum() > self.bound // 2 or lengths[keep].sum() > self.bound // 2 * BYTES_A_VALUE:
            self.limit //= 2
            keep = numbers < np.uint64(self.limit)
        keep |= frequent
        self.values, self.counts = self.values.filter(from_numpy(keep)), self.counts[keep]

    def _low(self, values: TextArray) -> Flags:
        flags: Flags = hashes([values], len(values)) < np.uint64(min(self.limit, HIGHEST - 1))
        return flags

    def _without_long(self, values: TextArray, counts: Counts, long: Flags) -> tuple[TextArray, Counts]:
        from hashlib import blake2b

        for value in values.filter(from_numpy(long)).to_pylist():
            if len(self.long) < self.bound:
                self.long.add(blake2b(value.encode(), digest_size=12).digest())
        return values.filter(from_numpy(~long)), counts[~long]


def rounded(estimate: int) -> int:
    """An estimate to two digits: it has no more."""
    return round(estimate, -max(0, len(str(estimate)) - 2))
