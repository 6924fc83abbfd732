"""The values of groups whose rows come in pieces: groups are one after the other, so only the last one is open."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

import numpy as np
import pyarrow as pa

from mangler.expressions.aggregates.aggregate import Collecting, Columns, Folding, is_folding
from mangler.expressions.aggregates.bind import BoundAggregate
from mangler.expressions.value import Failure
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.keys import Codes
from mangler.steps.within.sorted_rows import SortedRows

TooLarge = Callable[[BoundAggregate, int], Exception]
"""The refusal of a group whose values take so many bytes."""


LEAST = 1 << 20
"""Bytes of one group that there is always room for."""


class GroupValues:
    """Takes in sorted rows, and gives the values of the groups that ended."""

    def __init__(self, aggregate: BoundAggregate, limit: int, too_large: TooLarge) -> None:
        self._aggregate, self._too_large = aggregate, too_large
        self._limit = max(limit, LEAST)
        self._folds = is_folding(aggregate.reducer)
        self._open: Columns | None = None
        """The states, or the rows, of the last group; None where there is none yet."""

    def take(self, rows: SortedRows, arguments: Columns) -> tuple[ColumnArray, tuple[Failure, ...]]:
        """The values of the groups that ended before the last group of these rows."""
        shift = 0 if self._open is None or rows.goes_on else 1
        codes = rows.segments.codes + shift
        count = len(rows.segments.starts) + shift
        if self._folds:
            return self._fold(codes, count, arguments, rows.segments.count)
        return self._collect(codes, count, arguments)

    def _fold(
        self, codes: Codes, count: int, arguments: Columns, rows: int
    ) -> tuple[ColumnArray, tuple[Failure, ...]]:
        reducer = cast(Folding, self._aggregate.reducer)
        states = reducer.initial_states(arguments[0], arguments[1], rows)
        if self._open is not None:
            states = [pa.concat_arrays(pair) for pair in zip(self._open, states, strict=True)]
            codes = np.append(0, codes)
        folded = reducer.fold(codes, count, states)
        self._open = [state.slice(count - 1) for state in folded]
        return reducer.finish([state.slice(0, count - 1) for state in folded])

    def _collect(
        self, codes: Codes, count: int, arguments: Columns
    ) -> tuple[ColumnArray, tuple[Failure, ...]]:
        reducer = cast(Collecting, self._aggregate.reducer)
        chosen, columns = reducer.collect(arguments[0], arguments[1])
        codes = codes[chosen]
        if self._open is not None:
            codes = np.append(np.zeros(len(self._open[0]), np.int64), codes)
            columns = [pa.concat_arrays(pair) for pair in zip(self._open, columns, strict=True)]
        arranged = reducer.arrange(codes, columns)
        columns = arranged.some(0, len(arranged.rows))
        ends = np.searchsorted(arranged.codes, np.arange(count), side="right")
        offsets = np.append(0, ends)
        self._open = [column.slice(int(offsets[-2])) for column in columns]
        size = sum(column.nbytes for column in self._open)
        if size > self._limit:
            raise self._too_large(self._aggregate, size)
        closed = [column.slice(0, int(offsets[-2])) for column in columns]
        return reducer.finish(closed, offsets[:-1])

    def last(self) -> tuple[ColumnArray, tuple[Failure, ...]]:
        """The value of the group that is still open, when all rows were taken in."""
        assert self._open is not None
        if self._folds:
            return cast(Folding, self._aggregate.reducer).finish(self._open)
        length = len(self._open[0])
        return cast(Collecting, self._aggregate.reducer).finish(self._open, np.array([0, length]))
