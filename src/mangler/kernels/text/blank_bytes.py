"""Bytes with which white space may start and end: a quick first look at the ends of cells.

A byte of several-byte characters may belong to others too, so a hit only calls for a closer look.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from mangler.blanks import BLANKS
from mangler.kernels.text.text_view import Flags


def _table(members: Iterable[int]) -> Flags:
    table = np.zeros(256, np.bool_)
    table[sorted(set(members))] = True
    return table


MAY_OPEN_BLANK = _table(blank.encode()[0] for blank in BLANKS)
MAY_CLOSE_BLANK = _table(blank.encode()[-1] for blank in BLANKS)
