"""Words that mean null in the files of a recipe."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import with_nulls
from mangler.kernels.text.whole import WholeMatcher, match_whole


def with_null_words(columns: Sequence[ColumnArray], words: tuple[str, ...]) -> tuple[list[Any], int]:
    """The columns with null where a text is one of the words, and how many such cells there are."""
    if not words:
        return list(columns), 0
    matcher = WholeMatcher(words)
    out, made = [], 0
    for column in columns:
        if not pa.types.is_string(column.type):
            out.append(column)
            continue
        found = match_whole(column, matcher).codes >= 0
        count = int(np.count_nonzero(found))
        made += count
        out.append(with_nulls(column, found) if count else column)
    return out, made
