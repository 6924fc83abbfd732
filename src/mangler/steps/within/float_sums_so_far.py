"""Sums of floats from row to row, as exact as those of whole groups: in pieces, rounded once for each row."""

from __future__ import annotations

import numpy as np
import pyarrow as pa

from mangler.expressions.aggregates.aggregate import Columns
from mangler.expressions.aggregates.sums import TOO_LARGE
from mangler.expressions.value import failing
from mangler.kernels.keys.segments import Segments, sums_so_far
from mangler.kernels.values.exact_sums import Pieces, carried, float_pieces, near_floats
from mangler.steps.within.sorted_rows import Result, SortedRows
from mangler.table.schema import ValueType

BLOCK = 1 << 15
"""Rows at a time: there may be a piece for each power of 32 bits that floats have."""


class FloatSumRunner:
    """Remembers the pieces of the group that may go on, by their place, and how many values it has."""

    def __init__(self, mean: bool) -> None:
        self._mean = mean
        self._pieces: dict[int, int] = {}
        self._count = 0

    def take(self, rows: SortedRows, arguments: Columns) -> Result:
        values = arguments[0]
        there = np.asarray(values.is_valid())
        numbers = np.asarray(values.fill_null(0.0)) if values.null_count else np.asarray(values)
        sums, empty = [np.zeros(0)], [np.zeros(0, np.bool_)]
        codes = rows.segments.codes
        for start in range(0, len(numbers), BLOCK):
            end = min(start + BLOCK, len(numbers))
            goes_on = rows.goes_on if not start else bool(codes[start] == codes[start - 1])
            block = self._block(numbers[start:end], there[start:end], Segments.of(codes[start:end]), goes_on)
            sums.append(block[0])
            empty.append(block[1])
        total, none = np.concatenate(sums), np.concatenate(empty)
        too_large = ~np.isfinite(total)
        array = pa.array(np.where(too_large, 0.0, total), mask=none | too_large)
        return Result(array, failing(too_large, TOO_LARGE[ValueType.FLOAT]))

    def _block(
        self, numbers: np.ndarray, there: np.ndarray, segments: Segments, goes_on: bool
    ) -> tuple[np.ndarray, np.ndarray]:
        if not goes_on:
            self._pieces, self._count = {}, 0
        first = int(segments.lengths[0])
        counts = sums_so_far(there.astype(np.int64), segments)
        counts[:first] += self._count
        at = np.flatnonzero(there)
        places, words, amounts = float_pieces(numbers[at])
        used = [*self._pieces, *np.unique(words).tolist()]
        lowest, highest = (min(used), max(used)) if used else (0, 0)
        pieces: list[Pieces] = []
        for word in range(lowest, highest + 2):
            piece = np.zeros(len(numbers), np.int64)
            own = words == word
            piece[at[places[own]]] = amounts[own]
            piece = sums_so_far(piece, segments)
            piece[:first] += self._pieces.get(word, 0)
            pieces.append(piece)
        carried(pieces)
        self._pieces = {lowest + index: int(piece[-1]) for index, piece in enumerate(pieces) if piece[-1]}
        self._count = int(counts[-1])
        over = np.maximum(counts, 1) if self._mean else np.ones(len(counts), np.int64)
        return near_floats(pieces, lowest, over), counts == 0
