"""Keys of one or several columns as numbers: equal keys, equal numbers. Null is a value of its own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.text_view import view

Codes = npt.NDArray[np.int64]
LARGEST = 1 << 62


def folded(column: Any, anycase: bool) -> Any:
    """A column as its cells are compared: texts without letter case where that does not count, and one zero only."""
    if pa.types.is_floating(column.type):
        return pc.add(column, 0.0)
    return pc.utf8_lower(pc.utf8_upper(column)) if anycase and pa.types.is_string(column.type) else column


def codes_of(column: Any) -> tuple[Codes, int]:
    """A number for each cell, in order of first appearance, and how many there are; null has one too."""
    encoded = column.dictionary_encode(null_encoding="encode")
    return np.asarray(encoded.indices).astype(np.int64), len(encoded.dictionary)


@dataclass(frozen=True)
class Keys:
    """`codes[i]` is the number of row i's key, in order of first appearance; `first` the row that has each first."""

    codes: Codes
    first: Codes

    @property
    def count(self) -> int:
        return len(self.first)


def keys_of(columns: Sequence[Any], count: int) -> Keys:
    """The keys of some columns; without any all rows have the same."""
    if not columns or not count:
        return Keys(np.zeros(count, np.int64), np.zeros(min(count, 1), np.int64))
    packed, size = codes_of(columns[0])
    for column in columns[1:]:
        codes, more = codes_of(column)
        if size > LARGEST // max(more, 1):
            packed, size = _dense(packed)
        packed = packed * more + codes
        size *= more
    codes, _ = _dense(packed) if len(columns) > 1 else (packed, size)
    highest = np.maximum.accumulate(codes)
    first = np.flatnonzero(np.append(True, highest[1:] > highest[:-1]))
    return Keys(codes, first)


def _dense(numbers: Codes) -> tuple[Codes, int]:
    encoded = pa.array(numbers).dictionary_encode()
    return np.asarray(encoded.indices).astype(np.int64), len(encoded.dictionary)


# Hashes: equal keys have equal ones, so that rows can be dealt out to partitions that know nothing of each other


_SOME = np.random.default_rng(20260504).integers(1, 1 << 63, 64, np.uint64) | np.uint64(1)


def hashes(columns: Sequence[Any], count: int, level: int = 0) -> npt.NDArray[np.uint64]:
    """A number for each row's key. Another `level` deals the same keys out differently."""
    out = np.full(count, _SOME[level % 64], np.uint64)
    with np.errstate(over="ignore"):
        for column in columns:
            out = (out ^ (out >> np.uint64(29))) * _SOME[(level + 7) % 64] + _hash_of(column, level)
        return out ^ (out >> np.uint64(32))


def _hash_of(column: Any, level: int) -> npt.NDArray[np.uint64]:
    if not pa.types.is_string(column.type):
        column = (
            column.cast(pa.string()) if not pa.types.is_list(column.type) else pc.binary_join(column, "\x1f")
        )
    cells = view(column)
    lengths = cells.lengths.astype(np.int64)
    within = np.arange(len(cells.data)) - np.repeat(cells.starts.astype(np.int64), lengths)
    weighted = (cells.data.astype(np.uint64) + np.uint64(1)) * _SOME[(within * 5 + level) & 63]
    total = np.zeros(len(cells.data) + 1, np.uint64)
    np.cumsum(weighted, out=total[1:])
    sums = total[cells.ends] - total[cells.starts]
    return sums if cells.valid is None else np.where(cells.valid, sums, np.uint64(0x9E3779B97F4A7C15))
