"""Rows made several times: which row each comes from."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.taking import take
from mangler.kernels.text.fields import FieldColumn, entries_of, taken
from mangler.kernels.text.growth import refuse_beyond
from mangler.kernels.text.text_view import LARGEST_COLUMN, view

SOME = 16 << 20
"""Bytes that need no counting."""
Numbers = npt.NDArray[np.intp]


def numbers_within(counts: Numbers) -> Numbers:
    """0, 1, … for each row as often as its count says, all rows one after the other."""
    ends = np.cumsum(counts)
    numbers: Numbers = np.arange(ends[-1] if len(ends) else 0) - np.repeat(ends - counts, counts)
    return numbers


def repeated_rows(columns: Sequence[ColumnArray], sources: Numbers) -> Sequence[Any]:
    """The same of all columns. Those that are not made yet stay so, where they are not too large."""
    fields = [one for one in entries_of(columns) if isinstance(one, FieldColumn)]
    if fields:
        sizes = fields[0].read.record_sizes
        # Only where the longest record everywhere would be too much need it be counted.
        at_most = int(sizes.max(initial=0)) * len(sources)
        if at_most <= LARGEST_COLUMN or int(sizes[sources].sum()) <= LARGEST_COLUMN:
            return taken(columns, sources)
    return [repeated(column, sources) for column in columns]


def repeated(column: ColumnArray, sources: Numbers) -> ColumnArray:
    """The cells of these rows; refused where that would be more than a column can hold."""
    if pa.types.is_string(column.type):
        cells = view(column)
        # Only where the longest cell everywhere would be too much need it be counted.
        longest = int(cells.lengths.max(initial=0))
        if longest * len(sources) > SOME:
            refuse_beyond(int(cells.lengths.astype(np.int64)[sources].sum()), "the rows made from these")
    return take(column, sources)
