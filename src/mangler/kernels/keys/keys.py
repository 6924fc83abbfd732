"""Keys of one or several columns as numbers: equal keys, equal numbers. Null is a value of its own.

The compiled kernel distinguishes keys by 128 bits of a hash (`hashed_keys`), NumPy by their values.
"""

from __future__ import annotations

from collections.abc import Sequence
from hashlib import blake2b

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.hashed_keys import hashes_of, numbered
from mangler.kernels.side_by_side import side_by_side
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.text_view import view
from mangler.kernels.values.spelled import spelled
from mangler.late_dataclass import dataclass

Codes = npt.NDArray[np.int64]
LARGEST = 1 << 62


def folded(column: ColumnArray, anycase: bool) -> ColumnArray:
    """A column as its cells are compared: without letter case where it does not count, with one zero and one NaN."""
    if pa.types.is_floating(column.type):
        # There are many bits that say NaN.
        return pc.if_else(pc.is_nan(column), pa.scalar(float("nan"), column.type), pc.add(column, 0.0))
    return pc.utf8_lower(pc.utf8_upper(column)) if anycase and pa.types.is_string(column.type) else column


def codes_of(column: ColumnArray) -> tuple[Codes, int]:
    """A number for each cell, in order of first appearance, and how many there are; null has one too."""
    encoded = as_dictionary(column, with_nulls=True)
    return np.asarray(encoded.indices).astype(np.int64), len(encoded.dictionary)


@dataclass(frozen=True)
class Keys:
    """`codes[i]` is the number of row i's key, in order of first appearance; `first` the row that has each first."""

    codes: Codes
    first: Codes

    @property
    def count(self) -> int:
        return len(self.first)


def keys_of(columns: Sequence[ColumnArray], count: int) -> Keys:
    """The keys of some columns; without any all rows have the same."""
    if not columns or not count:
        return Keys(np.zeros(count, np.int64), np.zeros(min(count, 1), np.int64))
    if compiled.seen is not None:
        return Keys(*numbered(hashes_of(columns, count)))
    codes, size = _packed(columns)
    if len(columns) > 1:
        codes, _ = _dense(codes, size)
    highest = np.maximum.accumulate(codes)
    first = np.flatnonzero(np.append(True, highest[1:] > highest[:-1]))
    return Keys(codes, first)


def one_of_each(columns: Sequence[ColumnArray], count: int, last: bool = False) -> Codes:
    """The first row of each key, or the last, in the order of the rows: cheaper than the numbers of all keys."""
    if compiled.seen is None and len(columns) > 1 and count:
        numbers, size = _packed(columns)
        bits = count.bit_length()
        if size.bit_length() + bits <= 62:
            together = (numbers << bits) | np.arange(count)
            together.sort()
            numbers = together >> bits
            differs = numbers[1:] != numbers[:-1]
            chosen = np.append(differs, True) if last else np.append(True, differs)
            rows: Codes = together[chosen] & ((1 << bits) - 1)
            rows.sort()
            return rows
    keys = keys_of(columns, count)
    if not last:
        return keys.first
    final = np.empty(keys.count, np.int64)
    final[keys.codes] = np.arange(count)  # of equal places the last value stays
    final.sort()
    return final


def _packed(columns: Sequence[ColumnArray]) -> tuple[Codes, int]:
    """The cells of each row as one number, and a bound for it; of a single column in order of first appearance."""
    (packed, size), *others = side_by_side(codes_of, columns, len(columns[0]))
    for codes, more in others:
        if size > LARGEST // max(more, 1):
            packed, size = _dense(packed, size)
        packed = packed * more + codes
        size *= more
    return packed, size


def _dense(numbers: Codes, size: int) -> tuple[Codes, int]:
    """Numbers below a size as ones in order of first appearance, without gaps, and how many there are."""
    if size <= 4 * len(numbers):
        # The last that is written to a place stays: from the back, the first row of each number.
        first = np.full(size, len(numbers))
        first[numbers[::-1]] = np.arange(len(numbers) - 1, -1, -1)
        order = np.argsort(first, kind="stable")
        count = int(np.count_nonzero(first < len(numbers)))
        place = np.empty(size, np.int64)
        place[order] = np.arange(size)
        return np.asarray(place[numbers], np.int64), count
    encoded = as_dictionary(pa.array(numbers))
    return np.asarray(encoded.indices).astype(np.int64), len(encoded.dictionary)


# Hashes: equal keys have equal ones, so that rows can be dealt out to partitions that know nothing of each other


def _odd_numbers(count: int) -> npt.NDArray[np.uint64]:
    """Fixed odd numbers that look like chance; NumPy's own would take a while to load."""
    digests = (blake2b(number.to_bytes(4, "little"), digest_size=8).digest() for number in range(count))
    return np.frombuffer(b"".join(digests), np.dtype("<u8")) | np.uint64(1)


_SOME = _odd_numbers(64)


def hashes(columns: Sequence[ColumnArray], count: int, level: int = 0) -> npt.NDArray[np.uint64]:
    """A number for each row's key. Another `level` deals the same keys out differently."""
    out = np.full(count, _SOME[level % 64], np.uint64)
    with np.errstate(over="ignore"):
        for column in columns:
            out = (out ^ (out >> np.uint64(29))) * _SOME[(level + 7) % 64] + cell_hashes(column, level)
        return out ^ (out >> np.uint64(32))


WORD = 8
MOST_WORDS = 8
"""So many words of a text count, and its last one; longer ones that differ only between are dealt out together."""


def cell_hashes(column: ColumnArray, level: int) -> npt.NDArray[np.uint64]:
    """A number for each cell of a column."""
    if not pa.types.is_string(column.type):
        column = spelled(column)
    if compiled.seen is not None:
        found: npt.NDArray[np.uint64] = compiled.seen.cell_hashes(column, _SOME, level, MOST_WORDS)
        return found
    cells = view(column)
    lengths, starts = cells.lengths.astype(np.int64), cells.starts.astype(np.int64)
    data = np.zeros(len(cells.data) + WORD, np.uint8)
    data[: len(cells.data)] = cells.data
    words = np.ndarray((len(cells.data) + 1,), np.dtype("<u8"), data, strides=(1,))
    """The 8 bytes from each place on."""
    total = lengths.astype(np.uint64) * _SOME[(level + 3) % 64]
    for number in range(MOST_WORDS):
        rest = lengths - number * WORD
        if number and not (rest > 0).any():
            break
        word = words[np.minimum(starts + number * WORD, len(cells.data))] & _MASKS[np.clip(rest, 0, WORD)]
        mixed = (total ^ (total >> np.uint64(31)) ^ word) * _SOME[(level * 5 + number + 11) % 64]
        total = mixed if not number else np.where(rest > 0, mixed, total)  # whatever other cells are like
    longest = lengths > MOST_WORDS * WORD
    if longest.any():
        total[longest] += words[cells.ends.astype(np.int64)[longest] - WORD] * _SOME[(level + 29) % 64]
    return total if cells.valid is None else np.where(cells.valid, total, np.uint64(0x9E3779B97F4A7C15))


_MASKS = np.array([(1 << 8 * count) - 1 for count in range(WORD + 1)], np.uint64)
