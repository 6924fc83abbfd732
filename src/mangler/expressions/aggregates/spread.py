"""`stddev` and `variance`: exact sums of the values and of their squares, rounded once at the end."""

from __future__ import annotations

from fractions import Fraction
from math import isqrt

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.aggregates.aggregate import Aggregate, Columns, Reducer, Wanted
from mangler.expressions.aggregates.pieces import InPieces
from mangler.expressions.function import NUMBER
from mangler.expressions.value import Failure, failing
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.keys import Codes
from mangler.kernels.values.exact_sums import BITS, FLOAT_SHIFT, float_pieces
from mangler.language.declaration import Example
from mangler.late_dataclass import dataclass
from mangler.table.schema import ValueType

COUNT = -1
SQUARES = 1 << 20
"""Added to the places of the pieces of squares."""
TOO_LARGE = "the numbers are too large for their squares"
LARGEST = 1e150


@dataclass(frozen=True)
class Spread(InPieces):
    """Rows with pieces of each group's sums, as those of a sum of floats; `root` takes the root of the variance.

    A square is two floats: what it is rounded to, and exactly what is rounded away.
    """

    root: bool
    kind = ValueType.FLOAT

    def collect(self, value: ColumnArray, order: ColumnArray) -> tuple[Codes, Columns]:  # noqa: ARG002
        there = np.flatnonzero(np.asarray(value.is_valid()))
        numbers = np.asarray(pc.cast(value.drop_null(), pa.float64(), safe=False))
        rows, words, amounts = float_pieces(numbers)
        with np.errstate(over="ignore", invalid="ignore"):
            bounded = np.where(np.abs(numbers) > LARGEST, np.nan, numbers)
            squares, rest = _squares(bounded)
        fits = np.isfinite(squares)
        parts = [(rows, words, amounts)]
        for part in (squares, rest):
            own, places, more = float_pieces(np.where(fits, part, 0.0))
            parts.append((own, places + SQUARES, more))
        every = np.arange(len(there))
        parts.append((every, np.full(len(there), COUNT), np.where(fits, 1, 1 + SQUARES * SQUARES)))
        rows, words, amounts = (np.concatenate([part[index] for part in parts]) for index in range(3))
        return there[rows], [from_numpy(words), from_numpy(amounts)]

    def finish(self, columns: Columns, offsets: Codes) -> tuple[ColumnArray, tuple[Failure, ...]]:
        words, amounts = (np.asarray(column).tolist() for column in columns)
        out: list[float | None] = []
        too_large = np.zeros(len(offsets) - 1, np.bool_)
        for group, (start, end) in enumerate(zip(offsets[:-1].tolist(), offsets[1:].tolist(), strict=True)):
            count, total, squares = 0, 0, 0
            for word, amount in zip(words[start:end], amounts[start:end], strict=True):
                if word == COUNT:
                    count += amount
                elif word < SQUARES // 2:
                    total += amount << (word * BITS)
                else:
                    squares += amount << ((word - SQUARES) * BITS)
            too_large[group] = count >= SQUARES * SQUARES
            out.append(None if count < 2 or too_large[group] else self._of(count, total, squares))
        return pa.array(out, pa.float64()), failing(too_large, TOO_LARGE)

    def _of(self, count: int, total: int, squares: int) -> float:
        above = max(0, count * (squares << FLOAT_SHIFT) - total * total)
        below = count * (count - 1) << (2 * FLOAT_SHIFT)
        if not self.root:
            return above / below
        shift = 2 * max(0, 64 - (above.bit_length() - below.bit_length()) // 2)
        return float(Fraction(isqrt((above << shift) // below), 1 << (shift // 2)))


def _squares(numbers: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The squares as they are rounded, and exactly what is rounded away (Dekker's product)."""
    product = numbers * numbers
    split = numbers * 134217729.0
    upper = split - (split - numbers)
    lower = numbers - upper
    return product, ((upper * upper - product) + 2 * upper * lower) + lower * lower


def _way(wanted: Wanted) -> Reducer:
    return Spread(wanted.node.function == "stddev")


AGGREGATES = (
    Aggregate(
        "stddev",
        "stddev(x)",
        "The standard deviation of the group's numbers, taken as a sample: the root of their variance. Nulls are"
        " skipped; of fewer than two numbers it is null.",
        (
            Example(
                "group by kiln with spread = stddev(peak)",
                "kiln | peak integer\n007 | 1000\n007 | 1100\n007 | 1200\n012 | 998",
                "kiln | spread float\n007 | 100\n012 | null",
            ),
        ),
        _way,
        NUMBER,
    ),
    Aggregate(
        "variance",
        "variance(x)",
        "The variance of the group's numbers, taken as a sample: the squares of their distances from the mean, added,"
        " and divided by one less than their number. Nulls are skipped; of fewer than two numbers it is null.",
        (
            Example(
                "group with spread = variance(peak)",
                "peak integer\n2\n4\n4\n4\n5\n5\n7\n9",
                "spread float\n4.571428571428571",
            ),
        ),
        _way,
        NUMBER,
    ),
)
