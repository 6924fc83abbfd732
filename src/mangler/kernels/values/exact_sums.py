"""Sums that are exact whatever the order: numbers in pieces of 32 bits, which add up without rounding or running over.

A piece is a 64-bit integer, so that two thousand million of them can be added before it is full. Floats go the same
way, as whole numbers of the smallest float there is: their sum is rounded once, at the end.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import TypeAlias

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.text_view import Flags
from mangler.kernels.values.convert import DECIMAL

Pieces: TypeAlias = npt.NDArray[np.int64]
BITS = 32
LOW = (1 << BITS) - 1
MOST_DECIMAL = 10**38
"""A decimal has fewer billionths than this."""
FLOAT_SHIFT = 1152
"""Floats count as multiples of 2 to the power of minus this, a multiple of 32 below the smallest float."""


def pieces_of(column: ColumnArray) -> list[Pieces]:
    """Integers in 2 pieces, decimals in 4, the lowest first; the last one has the sign. Null counts as 0."""
    column = column.fill_null(pa.scalar(0).cast(column.type)) if column.null_count else column
    if pa.types.is_integer(column.type):
        return _in_two(np.asarray(column))
    if not len(column):
        return [np.empty(0, np.int64)] * 4
    words = np.frombuffer(column.buffers()[1], np.int64)[2 * column.offset :][: 2 * len(column)]
    low, high = words[0::2], words[1::2]
    upper = (low.view(np.uint64) >> np.uint64(BITS)).astype(np.int64)
    return [low & LOW, upper, *_in_two(high)]


def _in_two(numbers: Pieces) -> list[Pieces]:
    return [numbers & LOW, numbers >> BITS]


def added(codes: Pieces, count: int, pieces: Sequence[Pieces]) -> list[Pieces]:
    """The sums of groups, with what one piece has too much carried to the next."""
    sums = []
    for piece in pieces:
        total = np.zeros(count, np.int64)
        np.add.at(total, codes, piece)
        sums.append(total)
    return carried(sums)


def carried(sums: list[Pieces]) -> list[Pieces]:
    """The same sums: what one piece has too much is carried to the next, in place."""
    for lower, upper in pairwise(sums):
        upper += lower >> BITS
        lower &= LOW
    return sums


def to_integers(pieces: Sequence[Pieces]) -> tuple[ColumnArray, Flags]:
    """Sums as integers of 64 bits, and which have more."""
    low, high = pieces
    too_large = (high < -(1 << 31)) | (high >= 1 << 31)
    return pa.array((np.where(too_large, 0, high) << BITS) | low, mask=too_large), too_large


def to_decimals(pieces: Sequence[Pieces]) -> tuple[ColumnArray, Flags]:
    """Sums as decimals of 38 digits, and which have more."""
    top = pieces[3]
    border = MOST_DECIMAL >> (3 * BITS)
    too_large: Flags = (top > border) | (top < -border - 1)
    for index in np.flatnonzero(
        (np.abs(top) >= border) & ~too_large
    ).tolist():  # so near that all pieces count
        exact = sum(int(piece[index]) << (BITS * word) for word, piece in enumerate(pieces))
        too_large[index] = abs(exact) >= MOST_DECIMAL
    words = np.empty(2 * len(top), np.int64)
    words[0::2] = pieces[0] | (pieces[1] << BITS)
    words[1::2] = pieces[2] | (np.where(too_large, 0, top) << BITS)
    made = pa.Array.from_buffers(DECIMAL, len(top), [None, pa.py_buffer(words)])
    if not too_large.any():
        return made, too_large
    return pc.if_else(from_numpy(too_large), pa.scalar(None, DECIMAL), made), too_large


def to_floats(pieces: Sequence[Pieces]) -> npt.NDArray[np.float64]:
    """Sums of whole numbers, or of decimals without their point, as near as floats come."""
    total = pieces[-1].astype(np.float64)
    for piece in reversed(pieces[:-1]):
        total = total * float(1 << BITS) + piece
    return total


def float_pieces(values: npt.NDArray[np.float64]) -> tuple[Pieces, Pieces, Pieces]:
    """Floats taken apart: for each piece the row it is of, its place (times 32 bits), and its amount."""
    fractions, exponents = np.frexp(values)
    mantissas = (fractions * float(1 << 53)).astype(np.int64)
    position = exponents.astype(np.int64) - 53 + FLOAT_SHIFT
    word, shift = position >> 5, position & 31
    size, sign = np.abs(mantissas), np.sign(mantissas)
    lowest = (size & LOW) << shift
    middle = ((size >> BITS) << shift) + (lowest >> BITS)
    amounts = np.concatenate([sign * (lowest & LOW), sign * (middle & LOW), sign * (middle >> BITS)])
    rows = np.tile(np.arange(len(values)), 3)
    words = np.concatenate([word, word + 1, word + 2])
    there = amounts != 0
    there[: len(values)] |= mantissas == 0  # a sum of zeros is 0, and no null
    return rows[there], words[there], amounts[there]


def float_sums(
    codes: Pieces, count: int, words: Pieces, amounts: Pieces, over: Pieces
) -> tuple[ColumnArray, Flags]:
    """The sum of each group's pieces divided by `over`, rounded once, and which are too large for a float."""
    totals = [0] * count
    shifts = (words * BITS).tolist()
    for code, shift, amount in zip(codes.tolist(), shifts, amounts.tolist(), strict=True):
        totals[code] += amount << shift
    out, too_large = np.zeros(count), np.zeros(count, np.bool_)
    for index, (total, divisor) in enumerate(zip(totals, over.tolist(), strict=True)):
        try:
            out[index] = total / (max(divisor, 1) << FLOAT_SHIFT)
        except OverflowError:
            too_large[index] = True
    return pa.array(out, mask=too_large | (over == 0)), too_large


def near_floats(pieces: Sequence[Pieces], lowest: int, over: Pieces) -> npt.NDArray[np.float64]:
    """For each row the float next to the sum of its pieces divided by `over`; infinite where it is too large.

    `pieces` are those at the places `lowest` and on, what one has too much carried to the next. They are added from
    the greatest on in two floats, the second of which holds what the first one rounds away.
    """
    negative = pieces[-1] < 0
    pieces = carried([np.where(negative, -piece, piece) for piece in pieces])
    high = np.zeros(len(over))
    low = np.zeros(len(over))
    with np.errstate(over="ignore", invalid="ignore"):
        for index in range(len(pieces) - 1, -1, -1):
            term = np.ldexp(pieces[index].astype(np.float64), (lowest + index) * BITS - FLOAT_SHIFT)
            total = high + term
            back = total - high
            low += (high - (total - back)) + (term - back)
            high = total
        high, low = _two_sum(high, low)
        quotient = high / over
        rest = np.nan_to_num(_rest(high, quotient, over.astype(np.float64)) + low)
        part = np.where(over == 1, low, rest / over)
        base = np.where(over == 1, high, quotient)
        out = base + part
        # Nearly half way between two floats, what lies beyond the two counts: there the pieces are added as they are.
        half = np.spacing(np.abs(base)) / 2
        doubtful = np.abs(np.abs(part) - half) <= half * NEARLY
    out = np.where(np.isnan(out), np.inf, out)
    for row in np.flatnonzero(doubtful & np.isfinite(out)).tolist():
        exact = sum(int(piece[row]) << (BITS * (lowest + index)) for index, piece in enumerate(pieces))
        out[row] = exact / (int(over[row]) << FLOAT_SHIFT)
    return np.where(negative, -out, out)


NEARLY = 2.0**-30
"""Of the distance between two floats."""


def _two_sum(a: npt.NDArray[np.float64], b: npt.NDArray[np.float64]) -> tuple[npt.NDArray[np.float64], ...]:
    total = a + b
    back = total - a
    return total, (a - (total - back)) + (b - back)


def _rest(
    number: npt.NDArray[np.float64], quotient: npt.NDArray[np.float64], over: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    """What is left of a number without the quotient times what it was divided by, exactly (Dekker's product)."""
    product = quotient * over
    split = quotient * 134217729.0
    upper = split - (split - quotient)
    lower = quotient - upper
    over_split = over * 134217729.0
    over_upper = over_split - (over_split - over)
    over_lower = over - over_upper
    error = ((upper * over_upper - product) + upper * over_lower + lower * over_upper) + lower * over_lower
    return (number - product) - error
