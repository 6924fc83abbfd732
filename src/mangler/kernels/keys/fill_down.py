"""Nulls take the value above them, in the whole column or within groups of rows."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.dictionary import as_dictionary

Groups = npt.NDArray[np.int64]
"""The number of each row's group, from 0."""


def group_rows(columns: Sequence[ColumnArray], count: int) -> tuple[Groups, list[tuple[Any, ...]]]:
    """Numbers the rows by the values of some columns; null is a value like others. Gives each group's values too."""
    groups = np.zeros(count, np.int64)
    keys: list[tuple[Any, ...]] = [()]
    for column in columns:
        encoded = as_dictionary(column, with_nulls=True)
        values = _hashable(encoded.dictionary)
        both = groups * max(1, len(values)) + np.asarray(encoded.indices)
        found, groups = np.unique(both, return_inverse=True)
        keys = [(*keys[pair // len(values)], values[pair % len(values)]) for pair in found.tolist()]
    return groups, keys


def _hashable(array: ColumnArray) -> list[Any]:
    """Python's times have no nanoseconds: times are compared by Arrow's own values."""
    return list(array) if pa.types.is_temporal(array.type) else list(array.to_pylist())


def sources_above(array: ColumnArray, groups: Groups | None) -> npt.NDArray[np.intp]:
    """For each row the nearest row at or above it, of its group, that is not null; -1 where there is none."""
    valid = np.asarray(array.is_valid())
    if groups is None:
        return np.maximum.accumulate(np.where(valid, np.arange(len(array)), -1))
    order = np.argsort(groups, kind="stable")
    starts = np.zeros(len(order), np.bool_)
    starts[1:] = groups[order[1:]] != groups[order[:-1]]
    # Places in the order of groups; a group's first row forgets what came before it.
    first = np.maximum.accumulate(np.where(starts, np.arange(len(order)), 0))
    last = np.maximum.accumulate(np.where(valid[order], np.arange(len(order)), -1))
    found = np.where(last >= first, order[np.maximum(last, 0)], -1)
    sources = np.empty(len(order), np.intp)
    sources[order] = found
    return sources


def fill_from(array: ColumnArray, sources: npt.NDArray[np.intp], carried: Sequence[Any]) -> ColumnArray:
    """The column with each row taken from its source; rows without one take their `carried` value.

    `carried` has one Arrow scalar, or None, per row without source, in order.
    """
    without = sources < 0
    pool = pa.concat_arrays([array, pa.array(carried, array.type)]) if without.any() else array
    index = sources.copy()
    index[without] = len(array) + np.arange(int(without.sum()))
    return pc.take(pool, pa.array(index))
