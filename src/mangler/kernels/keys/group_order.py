"""Rows and values of groups: `codes[i]` is the number of row i's group, of `count` groups."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ArrowType, ColumnArray, from_numpy
from mangler.kernels.keys.keys import Codes
from mangler.kernels.keys.order import SortKey, sort_order
from mangler.kernels.taking import take
from mangler.kernels.text.growth import refuse_beyond
from mangler.kernels.text.text_view import Flags, view

NONE = -1
SEVERAL = 4
"""Times that each cell is taken on the average from which on a copy of the column costs little."""


def first_of(codes: Codes, count: int, rows: Codes) -> Codes:
    """Of some rows, the best first, the first of each group; -1 for a group without any."""
    first = np.full(count, NONE, np.int64)
    first[codes[rows[::-1]]] = rows[::-1]  # of equal places the last value stays
    return first


def chosen(column: ColumnArray, rows: Codes) -> ColumnArray:
    """The cells of these rows; null for -1."""
    if not len(column):
        return pa.nulls(len(rows), column.type)
    if len(column) * SEVERAL <= len(rows) and pa.types.is_string(column.type):
        # Behind the last cell is a null, which is taken for none.
        return take(
            pa.concat_arrays([column, pa.nulls(1, column.type)]), np.where(rows < 0, len(column), rows)
        )
    return column.take(from_numpy(rows, nulls=rows < 0))


def stable_group_order(codes: Codes) -> Codes:
    """The rows group by group, those of each as they are."""
    return in_groups(codes)[0]


def in_groups(codes: Codes) -> tuple[Codes, Codes]:
    """The rows group by group, those of each as they are; and the group of each of them."""
    count = len(codes)
    bits = max(1, count.bit_length())
    if count and int(codes.max()).bit_length() + bits <= 62:
        together = codes << bits
        together |= np.arange(count)
        together.sort()
        return together & ((1 << bits) - 1), together >> bits
    order = np.argsort(codes, kind="stable")
    return order, codes[order]


def extreme(codes: Codes, count: int, column: ColumnArray, greatest: bool) -> ColumnArray:
    """The least or the greatest value of each group; nulls pass for nothing."""
    there = np.asarray(column.is_valid())
    if _is_whole(column.type):
        return _extreme_number(codes, count, column, there, greatest)
    rows = np.flatnonzero(there)
    order = sort_order([column.take(from_numpy(rows))], [SortKey(descending=greatest)])
    return chosen(column, first_of(codes, count, rows[order]))


def _is_whole(kind: ArrowType) -> bool:
    return bool(
        pa.types.is_integer(kind)
        or pa.types.is_date(kind)
        or pa.types.is_timestamp(kind)
        or pa.types.is_time(kind)
        or pa.types.is_floating(kind)
    )


def _extreme_number(
    codes: Codes, count: int, column: ColumnArray, there: Flags, greatest: bool
) -> ColumnArray:
    kind = column.type
    if pa.types.is_floating(kind):
        numbers = np.asarray(column.fill_null(0.0)) + 0.0  # there is one zero
        start = -np.inf if greatest else np.inf
    else:
        plain = (
            column.cast(pa.int32()).cast(pa.int64()) if pa.types.is_date(kind) else column.cast(pa.int64())
        )
        numbers = np.asarray(plain.fill_null(0))
        limits = np.iinfo(np.int64)
        start = limits.min if greatest else limits.max
    if not there.all():
        codes, numbers = codes[there], numbers[there]
    out = np.full(count, start, numbers.dtype)
    (np.maximum if greatest else np.minimum).at(out, codes, numbers)
    seen = np.zeros(count, np.bool_)
    seen[codes] = True
    made = from_numpy(out, nulls=~seen)
    return made.cast(pa.int32()).cast(kind) if pa.types.is_date(kind) else made.cast(kind)


def listed(values: ColumnArray, offsets: Codes) -> ColumnArray:
    """A list a group of values that are group by group; null for a group without any."""
    lists = pa.ListArray.from_arrays(pc.cast(from_numpy(offsets), pa.int32()), values)
    empty = offsets[1:] == offsets[:-1]
    return lists if not empty.any() else pc.if_else(from_numpy(empty), pa.scalar(None, lists.type), lists)


def joined(values: ColumnArray, offsets: Codes, separator: str) -> ColumnArray:
    """The texts of each group with a text between; null for a group without any. Too large a text is refused."""
    size = view(values).data.nbytes + len(values) * len(separator.encode())
    refuse_beyond(size, "the joined values")
    return pc.binary_join(listed(values, offsets), separator)


def quantile(values: ColumnArray, offsets: Codes, share: float) -> ColumnArray:
    """The value of each group that such a share of its values do not exceed; between two of them in proportion.

    Values are floats, group by group in their order; null for a group without any.
    """
    counts = offsets[1:] - offsets[:-1]
    if not len(values):
        return pa.nulls(len(counts), pa.float64())
    place = np.maximum(counts - 1, 0) * share
    below = np.floor(place).astype(np.int64)
    last = len(values) - 1
    low = values[np.minimum(offsets[:-1] + below, last)]
    high = values[np.minimum(offsets[:-1] + np.minimum(below + 1, np.maximum(counts - 1, 0)), last)]
    part = place - below
    between = np.where((part == 0) | (low == high), low, low * (1 - part) + high * part)
    return from_numpy(between, nulls=counts == 0)


def middle(values: ColumnArray, offsets: Codes) -> ColumnArray:
    """The median of each group of floats that are group by group in their order; null for a group without any."""
    empty = offsets[1:] == offsets[:-1]
    last = max(len(values) - 1, 0)
    low = np.minimum((offsets[:-1] + offsets[1:] - 1) // 2, last).clip(0)
    high = np.minimum((offsets[:-1] + offsets[1:]) // 2, last)
    if not len(values):
        return pa.nulls(len(empty), pa.float64())
    between = values[low] / 2 + values[high] / 2
    return from_numpy(np.where(low == high, values[low], between), nulls=empty)
