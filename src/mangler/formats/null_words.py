"""Words that mean null in the files of a recipe."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import with_nulls
from mangler.kernels.text.whole import whole_words


def with_null_words(columns: Sequence[ColumnArray], words: tuple[str, ...]) -> tuple[list[Any], int]:
    """The columns with null where a text is one of the words, and how many such cells there are."""
    if not words:
        return list(columns), 0
    out, made = [], 0
    for column in columns:
        if not pa.types.is_string(column.type):
            out.append(column)
            continue
        codes = whole_words(column, words)
        if codes is None:
            out.append(column)
            continue
        found = codes >= 0
        made += int(np.count_nonzero(found))
        out.append(with_nulls(column, found))
    return out, made
