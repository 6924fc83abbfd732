"""How often a mark is in each cell: as many parts, less one, as it would make of the cell."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from mangler.kernels.text import bits
from mangler.kernels.text.text_view import TextView


def marks_per_cell(cells: TextView, mark: int) -> npt.NDArray[np.intp] | None:
    """How many times a byte of ASCII is in each cell; None where it is in none."""
    flags = cells.data == mark
    if not flags.any():
        return None
    before = bits.counts_before(bits.pack(flags), cells.offsets.astype(np.int64))
    counts: npt.NDArray[np.intp] = before[1:] - before[:-1]
    return counts
