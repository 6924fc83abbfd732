"""Cells by the byte that they start with."""

from __future__ import annotations

import numpy as np

from mangler.kernels import compiled
from mangler.kernels.text.text_view import Flags, Positions, TextArray, view

GUARD = "'"
"""In front of a text it keeps a spreadsheet from running it."""
RISKY = np.zeros(256, np.bool_)
"""The bytes that a formula of a spreadsheet may start with."""
RISKY[list(b"=+-@\t\r\n")] = True
RISKY_OR_GUARDED = RISKY.copy()
RISKY_OR_GUARDED[ord(GUARD)] = True


def opened_by(array: TextArray, table: Flags) -> Positions:
    """The cells, by number, whose first byte the table flags; of 256 flags. Nulls and empty cells have none."""
    if compiled.looks is not None:
        found: Positions = compiled.looks.opened_by(array, table.view(np.uint8))
        return found
    cells = view(array)
    if not len(cells.data):
        return np.zeros(0, np.intp)
    first = cells.data.take(cells.starts, mode="clip")
    return np.flatnonzero(cells.only_valid(table[first] & (cells.lengths > 0)))
