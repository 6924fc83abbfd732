"""Columns of few values that follow from one another."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.text_view import TextArray

MOST_LEVELS, LEAST_EACH, MOST_PAIRED = 30, 4, 12
"""Values of a column from which others may follow, cells for each of them, and such columns of a table."""
MOSTLY_ONE, MOST_EXCEPTIONS = 0.9, 0.25


def follows_of(heads: Mapping[str, TextArray]) -> list[tuple[str, str, int]]:
    """Pairs of columns of few values of which one follows from the other, except in a few rows; and how many these are.

    A column of one value, or nearly, follows from any other, and is left out.
    """
    codes = {}
    for name, head in heads.items():
        encoded = as_dictionary(head)
        size = len(encoded.dictionary)
        if not 2 <= size <= MOST_LEVELS or size * LEAST_EACH > len(head):
            continue
        own = np.asarray(encoded.indices.fill_null(size)).astype(np.int64)
        if np.bincount(own).max() < MOSTLY_ONE * len(own):
            codes[name] = own
        if len(codes) == MOST_PAIRED:
            break
    found = []
    for of, ours in codes.items():
        for other, theirs in codes.items():
            if of == other:
                continue
            width = int(theirs.max()) + 1
            pairs = np.bincount(ours * width + theirs, minlength=(int(ours.max()) + 1) * width)
            exceptions = len(ours) - int(pairs.reshape(-1, width).max(axis=1).sum())
            if exceptions <= MOST_EXCEPTIONS * len(ours):
                found.append((of, other, exceptions))
    return found
