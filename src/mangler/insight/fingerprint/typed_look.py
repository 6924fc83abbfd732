"""A column that is not a text in its file: its values as they are, and not how they are written."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.insight.columns.facts import distinct_in
from mangler.insight.columns.shape_kinds import ShapeKind
from mangler.insight.fingerprint.fingerprint import MOST_VALUES
from mangler.insight.fingerprint.seen import Seen, Written, few_values, thousandths
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.keys import hashes
from mangler.kernels.text.dictionary import has_more_values
from mangler.kernels.values.spelled import encodes, spelled


def look_at_typed(column: ColumnArray, is_first: bool, head: int | None) -> Seen:
    """A column that is not a text: its values as they are, and not how they are written."""
    seen = Seen(is_first, len(column), column.null_count, is_typed=True)
    seen.written = _of_type(column)
    if not has_many(column):
        values, counts, _ = distinct_in(column)
        seen.few = few_values(values, counts)
    if is_first and head is not None:
        cells = spelled(column)
        seen.hashed = hashes([cells.drop_null()], len(cells) - cells.null_count)
        seen.head = cells.slice(0, head)
    return seen


def has_many(column: ColumnArray) -> bool:
    """Whether some of the cells show that there are more than a few values; to count them all would take long."""
    some = column.slice(0, 8 * MOST_VALUES)
    return encodes(some) and has_more_values(some, 2 * MOST_VALUES)


def _of_type(column: ColumnArray) -> Written:
    """The kind of all cells, and of numbers the least, the greatest and the sum."""
    filled = len(column) - column.null_count
    kind = column.type
    if not (pa.types.is_integer(kind) or pa.types.is_floating(kind) or pa.types.is_decimal(kind)):
        return Written(Counter({str(kind): filled} if filled else {}))
    written = Written(Counter({str(ShapeKind.NUMBER): filled} if filled else {}))
    numbers = np.asarray(
        pc.cast(column.drop_null() if column.null_count else column, pa.float64(), safe=False)
    )
    numbers = numbers[np.isfinite(numbers)]
    if len(numbers):
        written.least, written.most = float(numbers.min()), float(numbers.max())
        written.thousandths = thousandths(numbers, np.ones(len(numbers), np.int64))
    return written
