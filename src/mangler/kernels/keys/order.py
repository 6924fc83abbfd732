"""The order of rows by several columns: each column's values become ranks, and the ranks one number per row."""

from __future__ import annotations

from collections.abc import Sequence
from math import prod

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.keys import folded
from mangler.kernels.side_by_side import side_by_side
from mangler.kernels.text.dictionary import as_dictionary, few_values
from mangler.kernels.text.text_view import Flags, valid_flags, view
from mangler.late_dataclass import dataclass

Order = npt.NDArray[np.int64]


@dataclass(frozen=True)
class SortKey:
    """Texts go by code point, in any letter case with `anycase`; nulls are last, or first, either way."""

    descending: bool = False
    anycase: bool = False
    nulls_first: bool = False


def ranks(column: ColumnArray, key: SortKey) -> tuple[Order, int]:
    """For each cell a number that compares as its value does, from 0, and a bound for these numbers."""
    column = folded(column, key.anycase)
    encoded = few_values(column)
    if encoded is None:
        packed = _packed_bytes(column)
        if packed is not None:
            return _placed(*packed, key)
        encoded = as_dictionary(column)
    values = encoded.dictionary
    rank = np.empty(len(values) + 1, np.int64)
    ascending = np.asarray(pc.sort_indices(values))
    rank[ascending] = np.arange(len(values))
    if key.descending:
        rank[:-1] = len(values) - 1 - rank[:-1]
    rank[-1] = len(values)
    if key.nulls_first:
        rank = rank + 1
        rank[-1] = 0
    codes = np.asarray(encoded.indices.fill_null(len(values)))
    return rank[codes], len(values) + 1


LONGEST = 32
"""Bytes of texts whose bytes are looked at one by one."""
MOST_BITS = 40


def _packed_bytes(column: ColumnArray) -> tuple[Order, Flags | None, int] | None:
    """Texts of one length as the numbers that their bytes make: timestamps, dates, codes; the nulls; and a bound.

    A place counts as many bytes as there are between its least and its greatest. None where lengths differ, or the
    numbers need more bits than are well spent.
    """
    if not pa.types.is_string(column.type) or column.null_count == len(column):
        return None
    filled = column.drop_null() if column.null_count else column
    cells = view(filled)
    length = int(cells.lengths[0])
    if (
        not 0 < length <= LONGEST
        or len(cells.data) != length * len(filled)
        or (cells.lengths != length).any()
    ):
        return None
    places = cells.data.reshape(len(filled), length)
    least, greatest = places.min(axis=0), places.max(axis=0)
    spans = greatest.astype(np.int64) - least + 1
    bound = prod(spans.tolist())
    if bound.bit_length() > MOST_BITS:
        return None
    numbers = np.zeros(len(filled), np.int64)
    for place in np.flatnonzero(spans > 1).tolist():
        numbers *= spans[place]
        numbers += places[:, place] - least[place]
    valid = valid_flags(column)
    if valid is None:
        return numbers, None, bound
    every = np.zeros(len(column), np.int64)
    every[valid] = numbers
    return every, ~valid, bound


def _placed(numbers: Order, nulls: Flags | None, bound: int, key: SortKey) -> tuple[Order, int]:
    """The numbers in the direction of the key, with its nulls before or behind all."""
    if key.descending:
        numbers = bound - 1 - numbers
    if key.nulls_first:
        numbers = numbers + 1
    if nulls is not None:
        numbers[nulls] = 0 if key.nulls_first else bound
    return numbers, bound + 1


def row_numbers(columns: Sequence[ColumnArray], keys: Sequence[SortKey]) -> Sequence[Order]:
    """Numbers that compare as the rows do: one per row where that fits, else several."""
    pairs = list(zip(columns, keys, strict=True))
    found = side_by_side(lambda pair: ranks(*pair), pairs, len(columns[0]))
    numbers: list[Order] = []
    room = 0
    for rank, count in found:
        bits = max(1, int(count).bit_length())
        if numbers and room + bits <= 62:
            numbers[-1] = (numbers[-1] << bits) | rank
            room += bits
        else:
            numbers.append(rank)
            room = bits
    return numbers


def sort_order(columns: Sequence[ColumnArray], keys: Sequence[SortKey]) -> Order:
    """The rows in their order; equal ones keep the order in which they came."""
    numbers = row_numbers(columns, keys)
    count = len(numbers[0])
    bits = max(1, int(count).bit_length())
    highest = int(numbers[0].max(initial=0))
    if len(numbers) == 1 and highest.bit_length() + bits <= 62:
        together = (numbers[0] << bits) | np.arange(count)
        together.sort()
        order: Order = together & ((1 << bits) - 1)
        return order
    if len(numbers) == 1:
        # Sorted as they come, which is several times as fast; then equal ones by their rows.
        order = np.argsort(numbers[0])
        arranged = numbers[0][order]
        runs = np.zeros(count, np.int64)
        np.cumsum(arranged[1:] != arranged[:-1], out=runs[1:])
        together = (runs << bits) | order
        together.sort()
        return together & ((1 << bits) - 1)
    return np.lexsort([*reversed(numbers)])


def classes(
    columns: Sequence[ColumnArray], splitters: Sequence[ColumnArray], keys: Sequence[SortKey]
) -> Order:
    """For each row which stretch between the splitters it belongs to.

    The splitters are rows of the same columns, in order. Row r is of class 2k + 1 when it is equal to splitter k, and
    of 2k when it is before it and after the one before.
    """
    count, known = len(columns[0]), len(splitters[0])
    both = [pa.concat_arrays([split, column]) for split, column in zip(splitters, columns, strict=True)]
    numbers = row_numbers(both, keys)
    if len(numbers) > 1:  # made one by sorting: equal rows, equal numbers
        order = np.lexsort([*reversed(numbers)])
        differs = np.zeros(len(order), np.bool_)
        for number in numbers:
            arranged = number[order]
            differs[1:] |= arranged[1:] != arranged[:-1]
        single = np.empty(len(order), np.int64)
        single[order] = np.cumsum(differs)
    else:
        single = numbers[0]
    bounds, rows = single[:known], single[known:]
    left = np.searchsorted(bounds, rows, side="left")
    equal = np.zeros(count, np.int64)
    inside = left < known
    equal[inside] = bounds[left[inside]] == rows[inside]
    found: Order = 2 * left + equal
    return found
