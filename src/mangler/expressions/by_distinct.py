"""Work that Arrow does with one parameter for a whole column, where the parameter differs from row to row."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.dictionary import as_dictionary


def by_distinct(
    array: ColumnArray, parameters: Sequence[ColumnArray], work: Callable[..., Any], kind: ColumnArray
) -> ColumnArray:
    """`work(cells, *values)` for the rows of each different combination of parameters; null where one is null."""
    count = len(array)
    codes = np.zeros(count, np.int64)
    there = np.ones(count, np.bool_)
    dictionaries = []
    for parameter in parameters:
        encoded = as_dictionary(parameter)
        there &= np.asarray(parameter.is_valid())
        codes = codes * (len(encoded.dictionary) + 1) + np.asarray(encoded.indices.fill_null(0))
        dictionaries.append(encoded.dictionary)
    pieces, positions = [], []
    known = np.flatnonzero(there)
    grouped = known[np.argsort(codes[known], kind="stable")]
    borders = np.flatnonzero(np.diff(codes[grouped])) + 1
    for where in np.split(grouped, borders) if len(grouped) else []:
        values: list[ColumnArray] = []
        rest = int(codes[where[0]])
        for dictionary in reversed(dictionaries):
            rest, index = divmod(rest, len(dictionary) + 1)
            values.insert(0, dictionary[index].as_py())
        pieces.append(work(array.take(from_numpy(where)), *values))
        positions.append(where)
    missing = np.flatnonzero(~there)
    if len(missing) or not pieces:
        pieces.append(pa.nulls(len(missing), kind))
        positions.append(missing)
    order = np.empty(count, np.int64)
    order[np.concatenate(positions)] = np.arange(count)
    return pa.concat_arrays(pieces).take(from_numpy(order))
