"""Work on the parts of lists, a column of lists at a time."""

from __future__ import annotations

from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.patterns import refuse_too_much_work


def split_at(texts: ColumnArray, pattern: str) -> ColumnArray:
    """The parts of each text, divided at all matches of a pattern."""
    refuse_too_much_work(texts, pattern)
    return pc.split_pattern_regex(texts, pattern=pattern)


def bounds(lists: ColumnArray) -> tuple[ColumnArray, Any]:
    """Where each list's parts start in the flattened parts, and how many there are; none for null."""
    counts = np.asarray(pc.fill_null(pc.list_value_length(lists), 0)).astype(np.int64)
    starts = np.concatenate(([0], np.cumsum(counts)[:-1])) if len(counts) else counts
    return starts, counts


def nth(lists: ColumnArray, which: int) -> ColumnArray:
    """The n-th part of each list, from 1, negative from the end; null where there are fewer."""
    starts, counts = bounds(lists)
    there = counts >= abs(which)
    index = starts + (which - 1 if which > 0 else counts + which)
    return lists.flatten().take(pa.array(np.where(there, index, 0), mask=~there))


def owners(lists: ColumnArray) -> ColumnArray:
    """For each of the flattened parts the list that it is of."""
    _, counts = bounds(lists)
    return np.repeat(np.arange(len(counts)), counts)


def regrouped(lists: ColumnArray, parts: ColumnArray, owner: ColumnArray) -> ColumnArray:
    """Lists of these parts, each of the list that `owner` says, in ascending order; nulls as in `lists`."""
    counts = np.bincount(owner, minlength=len(lists)) if len(lists) else np.zeros(0, np.int64)
    offsets = np.concatenate(([0], np.cumsum(counts))).astype(np.int32)
    mask = lists.is_null() if lists.null_count else None
    return pa.ListArray.from_arrays(pa.array(offsets), parts, mask=mask)


def codes(parts: ColumnArray) -> tuple[ColumnArray, Any]:
    """The number of each part's value, and the values; null is one too."""
    encoded = as_dictionary(parts, with_nulls=True)
    return np.asarray(encoded.indices), encoded.dictionary
