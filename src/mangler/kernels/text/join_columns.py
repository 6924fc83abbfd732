"""Columns joined row by row, with a separator between."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.concatenate import concatenate
from mangler.kernels.text.text_view import TextArray, valid_flags


def join_columns(
    columns: Sequence[TextArray], separator: str, skip: bool = True, filler: str | None = None
) -> TextArray:
    """One text a row. Nulls are left out with their separator if `skip`, else `filler` replaces them.

    Without either a null makes the whole null. Null throughout gives null.
    """
    count = len(columns[0])
    nullable = any(column.null_count for column in columns)
    between = separator.encode()
    if not nullable or (not skip and filler is None):
        plain: list[bytes | TextArray] = []
        for column in columns:
            plain += [between, column] if plain else [column]
        return concatenate(plain, count)
    filled = pa.scalar("" if skip else filler, pa.string())
    # Arrow's own join loses the last rows where it skips a null in all columns; so the separators are pieces too.
    some = np.zeros(count, np.bool_)
    pieces: list[bytes | TextArray] = []
    for number, column in enumerate(columns):
        valid = valid_flags(column)
        here = np.ones(count, np.bool_) if valid is None else valid
        if number and skip:
            pieces.append(pc.if_else(from_numpy(some & here), separator, ""))
        elif number:
            pieces.append(between)
        pieces.append(column if valid is None else pc.fill_null(column, filled))
        some |= here
    joined = concatenate(pieces, count)
    return joined if some.all() else pc.if_else(from_numpy(some), joined, pa.scalar(None, pa.string()))
