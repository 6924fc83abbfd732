"""Numbers of few digits, read from texts in one pass; what is written otherwise is left to other kernels."""

from __future__ import annotations

import numpy as np
import pyarrow as pa

from mangler.kernels import compiled
from mangler.kernels.arrow import ArrowType, ColumnArray
from mangler.kernels.text.text_view import Flags, Positions, TextArray
from mangler.kernels.values.number_forms import NumberForm
from mangler.late_dataclass import dataclass

LEFT, WITH_ZEROS, BLANK = 0, 2, 3
"""What the compiled kernel says of a cell, beside READ."""


@dataclass(frozen=True)
class ShortNumbers:
    """The numbers that were read; cells that are blank or left over are null."""

    array: ColumnArray
    left: Positions
    """The cells that are left to other kernels, by number."""
    leading_zeros: Flags


def read_short_numbers(array: TextArray, form: NumberForm, kind: ArrowType) -> ShortNumbers | None:
    """Numbers as a whole type of 64 bits or a decimal of 128; None where there is no compiled kernel for the form."""
    point = form.point.encode()
    if compiled.forms is None or form.negatives or len(point) != 1 or form.point in form.grouping:
        return None
    grouping = "".join(mark for mark in form.grouping if mark.isascii() and mark != " ")
    units = sorted((unit.encode() for unit in form.units), key=len, reverse=True)
    places = kind.scale if pa.types.is_decimal(kind) else 0
    values, states = compiled.forms.numbers(array, point[0], grouping.encode(), units, places)
    known = (states != LEFT) & (states != BLANK)
    bitmap = None if known.all() else pa.py_buffer(np.packbits(known, bitorder="little"))
    if pa.types.is_decimal(kind):
        # The higher half of a number below 0 is all ones.
        values = np.stack((values, values >> 63), axis=1)
    out = pa.Array.from_buffers(kind, len(array), [bitmap, pa.py_buffer(values)])
    return ShortNumbers(out, np.flatnonzero(states == LEFT), states == WITH_ZEROS)
