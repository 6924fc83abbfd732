"""Where a row comes in the order of all rows: its partition, and its ordinal within it, as one number.

Both are known wherever a partition is worked on. A count of the rows seen so far would be known only to whoever has
seen all rows before.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeAlias

import numpy as np
import numpy.typing as npt

Positions: TypeAlias = npt.NDArray[np.int64]
ORDINAL_BITS = 40
Run: TypeAlias = tuple[int, int]
"""A partition and how many rows came from it."""


def positions_of(partition: int, count: int) -> Positions:
    """The positions of the first `count` rows of a partition."""
    return (partition << ORDINAL_BITS) + np.arange(count, dtype=np.int64)


def indexes_of(positions: Positions, runs: Sequence[Run]) -> Positions:
    """The index of each position among all rows of these runs, which are in ascending order of partitions."""
    partitions = np.array([partition for partition, _ in runs], np.int64)
    starts = np.cumsum([0, *(count for _, count in runs)])[:-1]
    found = np.searchsorted(partitions, positions >> ORDINAL_BITS)
    indexes: Positions = starts[found] + (positions & ((1 << ORDINAL_BITS) - 1))
    return indexes
