"""Cells of any type as texts to look at, to count and to compare."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import TextArray
from mangler.kernels.values.format_values import format_values

BETWEEN = "; "
"""Between the parts of a list."""


def spelled(column: ColumnArray) -> TextArray:
    """A text for each cell; nulls stay null, and a part of a list that is null is empty."""
    kind = column.type
    if not pa.types.is_list(kind) or not pa.types.is_string(kind.value_type):
        return format_values(column)
    if column.values.null_count:
        filled = pc.fill_null(column.values, "")
        # Of a slice the offsets are copied: Arrow takes no mask beside offsets that start in the middle.
        column = pa.ListArray.from_arrays(
            pa.array(np.array(column.offsets)), filled, mask=column.is_null() if column.null_count else None
        )
    return pc.binary_join(column, BETWEEN)


def encodes(column: ColumnArray) -> bool:
    """Whether Arrow finds the distinct values of such columns."""
    kind = column.type
    return not (
        pa.types.is_nested(kind)
        or pa.types.is_interval(kind)
        or pa.types.is_union(kind)
        or isinstance(kind, pa.BaseExtensionType)
    )
