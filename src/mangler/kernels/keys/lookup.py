"""Finds the rows of one table whose keys those of another have. Null matches nothing."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow.compute as pc

from mangler.blanks import BLANK_CLASS
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.group_order import stable_group_order
from mangler.kernels.keys.keys import Codes
from mangler.kernels.text.dictionary import as_dictionary, few_values
from mangler.late_dataclass import dataclass

NONE = -1
LARGEST = 1 << 62


@dataclass(frozen=True)
class KeyTable:
    """The different keys of a table. `rows[starts[k]:starts[k] + counts[k]]` have key k, in order."""

    parts: tuple[Any, ...]
    """For each column its different values."""
    packed: tuple[Any, ...]
    """For each column after the first, the numbers that keys up to it have, in order."""
    rows: Codes
    starts: Codes
    counts: Codes

    def find(self, columns: Sequence[ColumnArray]) -> Codes:
        """The number of each row's key; -1 for one that is not there."""
        return _numbers(columns, self.parts, self.packed)


def key_table(columns: Sequence[ColumnArray], count: int) -> KeyTable:
    parts, packed = [], []
    numbers = np.zeros(count, np.int64)
    for number, column in enumerate(columns):
        values = as_dictionary(column).dictionary
        parts.append(values)
        codes = _places(column, values)
        if number:
            numbers = _packed(numbers, codes, len(values))
            known = np.unique(numbers[numbers >= 0])
            packed.append(known)
            numbers = _found(numbers, known)
        else:
            numbers = codes
    there = np.flatnonzero(numbers >= 0)
    there = there[stable_group_order(numbers[there])]
    most = len(packed[-1]) if packed else len(parts[0])
    counts = np.bincount(numbers[there], minlength=most)
    return KeyTable(tuple(parts), tuple(packed), there, np.cumsum(counts) - counts, counts)


def _numbers(columns: Sequence[ColumnArray], parts: Sequence[Any], packed: Sequence[Any]) -> Codes:
    numbers = _places(columns[0], parts[0])
    for column, values, known in zip(columns[1:], parts[1:], packed, strict=True):
        numbers = _found(_packed(numbers, _places(column, values), len(values)), known)
    return numbers


def _places(column: ColumnArray, values: ColumnArray) -> Codes:
    """Where each cell is among the values; -1 for none, and for null."""
    if not len(values):
        return np.full(len(column), NONE, np.int64)
    few = few_values(column)  # then each value is looked for once
    positions = pc.index_in(column if few is None else few.dictionary, value_set=values, skip_nulls=True)
    places = np.asarray(positions.fill_null(NONE)).astype(np.int64)
    return places if few is None else np.append(places, NONE)[np.asarray(few.indices.fill_null(len(places)))]


def _packed(numbers: Codes, codes: Codes, size: int) -> Codes:
    """Two numbers as one; -1 where either is. Those before are dense, so that there is room."""
    return np.where((numbers < 0) | (codes < 0), NONE, numbers * size + codes)


def _found(numbers: Codes, known: Codes) -> Codes:
    """The place of each number among those known, which are in order; -1 for none."""
    if not len(known):
        return np.full(len(numbers), NONE, np.int64)
    positions = np.searchsorted(known, numbers).clip(max=len(known) - 1)
    return np.where((numbers >= 0) & (known[positions] == numbers), positions, NONE)


def near_forms(texts: ColumnArray) -> ColumnArray:
    """Texts as a hurried eye sees them: without letter case, white space and zeros in front."""
    folded = pc.utf8_lower(pc.utf8_upper(texts))
    bare = pc.replace_substring_regex(folded, f"[{BLANK_CLASS}]+", "")
    return pc.replace_substring_regex(bare, r"^0+(.)", r"\1")
