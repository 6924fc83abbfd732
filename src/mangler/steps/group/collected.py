"""The rows that some aggregates keep of their own, beside one row per group: how they fold and are arranged."""

from __future__ import annotations

from functools import cached_property
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.expressions.aggregates.aggregate import Arrangement, Collecting
from mangler.expressions.aggregates.bind import BoundAggregate
from mangler.expressions.value import Bound, Failure
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.keys import Codes, keys_of
from mangler.kernels.taking import take
from mangler.kernels.text.text_view import view
from mangler.late_dataclass import dataclass
from mangler.steps.group.numbered import Gathered
from mangler.table.batch import Batch
from mangler.table.schema import ValueType
from mangler.table.spillable_rows import size_of_column
from mangler.table.types import ARROW


@dataclass(frozen=True)
class RowFold:
    """How the rows of a collecting aggregate fold."""

    reducer: Collecting
    keys: int

    def __call__(self, batch: Batch) -> Batch:
        codes = keys_of(batch.columns[: self.keys], len(batch)).codes
        rows, columns = self.reducer.fold(codes, list(batch.columns[self.keys :]))
        if len(rows) == len(batch):
            return batch
        keys = [take(column, rows) for column in batch.columns[: self.keys]]
        return Batch((*keys, *columns), batch.rows[rows], batch.origin)


@dataclass(frozen=True)
class Arranged:
    """The rows of a collecting aggregate, group by group."""

    aggregate: BoundAggregate
    reducer: Collecting
    rows: Arrangement
    offsets: Codes
    size: int
    """About how many bytes the values of all groups are together."""

    @property
    def name(self) -> str:
        return self.aggregate.name

    @classmethod
    def of(
        cls, aggregate: BoundAggregate, reducer: Collecting, count: int, found: Gathered | None
    ) -> Arranged:
        """Of `count` groups."""
        if found is None:
            nothing = np.empty(0, np.int64)
            _, columns = reducer.collect(nothing_of(aggregate.argument), nothing_of(aggregate.order))
            rows = Arrangement(nothing, nothing, columns)
        else:
            rows = reducer.arrange(found.numbers, found.columns, found.is_folded)
        offsets = np.zeros(count + 1, np.int64)
        np.cumsum(np.bincount(rows.codes, minlength=count), out=offsets[1:])
        return cls(aggregate, reducer, rows, offsets, sum(map(size_of_column, rows.columns)))

    def size_of(self, first: int, last: int, enough: int) -> int:
        """Bytes of the values of some groups. They are only counted where they may be more than `enough`: none is taken
        for it, as a group of very many would be taken again with each half that holds it."""
        rows = self.rows.rows[int(self.offsets[first]) : int(self.offsets[last])]
        size = 0
        for lengths, longest in self._lengths:
            most = longest * len(rows)
            size += most if lengths is None or most <= enough else int(lengths[rows].sum(dtype=np.int64))
        return size

    @cached_property
    def _lengths(self) -> list[tuple[Any, int]]:
        """Of each column the bytes of its cells, None where all have as many; and of the longest."""
        found: list[tuple[Any, int]] = []
        for column in self.rows.columns:
            lengths = view(column).lengths if pa.types.is_string(column.type) else None
            found.append((lengths, 16 if lengths is None else int(lengths.max(initial=0)) + 4))
        return found

    def finish(self, first: int, last: int) -> tuple[ColumnArray, tuple[Failure, ...]]:
        values = self.rows.some(int(self.offsets[first]), int(self.offsets[last]))
        return self.reducer.finish(values, self.offsets[first : last + 1] - self.offsets[first])


def numbered(main: Batch, other: Batch | None, keys: int) -> Gathered | None:
    """The rows of another table, each with the row of the main table that has its keys in their place."""
    if other is None:
        return None
    return Gathered(_numbers(main, other, keys), list(other.columns[keys:]))


def _numbers(main: Batch, other: Batch, keys: int) -> Codes:
    """Which row of the main table has the keys of each row of another one, where all of them are."""
    if not keys:
        return np.zeros(len(other), np.int64)
    count, theirs = len(main), list(other.columns[:keys])
    own = None
    if count * FEW <= len(other):  # to compare each key once more costs less than to put all of them together
        own = keys_of(theirs, len(other))
        theirs = [take(column, own.first) for column in theirs]
    both = [pa.concat_arrays(pair) for pair in zip(main.columns[:keys], theirs, strict=True)]
    # The main table's keys come first and are all different: their codes are their places.
    numbers = keys_of(both, len(both[0])).codes[count:]
    return numbers if own is None else numbers[own.codes]


FEW = 8
"""Rows for each key, from which on keys are few."""


def nothing_of(bound: Bound | None) -> ColumnArray:
    return None if bound is None else pa.nulls(0, ARROW[bound.kind or ValueType.TEXT])
