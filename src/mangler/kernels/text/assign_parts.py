"""Parts given out to columns from the left: one cursor a row moves over its parts, all rows at once."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.parts import Numbers, Parts
from mangler.kernels.text.patterns import matches, per_distinct
from mangler.kernels.text.text_view import Flags, TextArray
from mangler.kernels.text.white_space import trim
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Slot:
    """A column that parts are given to. `pattern`, for one that is not required, must match a whole part."""

    required: bool
    pattern: str = ""


@dataclass(frozen=True)
class HandedOut:
    """A column for each slot, and the rows with too few parts for the required ones, or with parts left over."""

    columns: tuple[TextArray, ...]
    too_few: Flags
    too_many: Flags


def hand_out(
    parts: Parts,
    slots: Sequence[Slot],
    absent: str | None = None,
    missing: str | None = None,
    keep_rest: bool = False,
    trim_rest: bool = True,
) -> HandedOut:
    """Gives each row's parts out.

    An optional slot with a pattern takes the next part exactly when it matches, or when it is empty and enough
    remain for the required slots after it; one without takes it only when enough remain; a required one always.
    `absent` is for an empty part and for an optional slot without one, `missing` for a required slot without
    one. Empty parts left over are ignored; with `keep_rest` the last column holds the cell's own text from its part
    on, where others are left over. Rows without parts are null throughout.
    """
    cursor, end = parts.first[:-1].copy(), parts.first[1:]
    some = end > cursor
    too_few = np.zeros(len(cursor), np.bool_)
    columns: list[TextArray] = []
    needed = sum(slot.required for slot in slots)
    at_last = cursor
    for slot in slots:
        needed -= slot.required
        takes = cursor < end
        if not slot.required:
            enough = end - cursor > needed
            takes = takes & (_fits(parts, cursor, takes, enough, slot.pattern) if slot.pattern else enough)
        numbers = np.where(takes, cursor, 0)
        filled = takes & ~parts.empty[numbers] if len(parts.empty) else takes
        column = parts.texts(numbers, filled)
        lacking = some & ~takes if slot.required else np.zeros(len(some), np.bool_)
        too_few |= lacking
        column = _put(column, some & ~filled & ~lacking, absent)
        columns.append(_put(column, lacking, missing))
        at_last = cursor.copy()
        cursor += takes
    ink = np.zeros(len(parts.empty) + 1, np.intp)
    np.cumsum(~parts.empty, out=ink[1:])
    too_many = ink[end] > ink[cursor]
    if keep_rest and too_many.any():
        columns[-1] = pc.if_else(from_numpy(too_many), parts.rests(at_last, too_many, trim_rest), columns[-1])
    return HandedOut(tuple(columns), too_few, too_many)


def _fits(parts: Parts, cursor: Numbers, there: Flags, enough: Flags, pattern: str) -> Flags:
    """Whether the part at the cursor matches as a whole, white space around it ignored, or is empty and to spare."""
    where = np.flatnonzero(there)
    fits = np.zeros(len(there), np.bool_)
    if not len(where):
        return fits
    texts = parts.texts(cursor[where])
    fits[where] = per_distinct(texts, lambda values: _matches_whole(values, pattern))
    fits[where] |= parts.empty[cursor[where]] & enough[where]
    return fits


def _matches_whole(values: TextArray, pattern: str) -> Flags:
    return matches(trim(values).array, f"\\A(?:{pattern})\\z")


def _put(column: TextArray, where: Flags, text: str | None) -> TextArray:
    if text is None or not where.any():
        return column
    return pc.if_else(from_numpy(where), pa.scalar(text, pa.string()), column)
