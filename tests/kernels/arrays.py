"""Text columns for kernels: as they are, as slices of longer ones, and with bytes under their nulls."""

from __future__ import annotations

from typing import Any

import numpy as np
import pyarrow as pa
from hypothesis import strategies as st

from mangler.blanks import BLANKS
from mangler.kernels.text.text_view import build

CHARACTERS = st.one_of(
    st.sampled_from([*BLANKS, " ", " ", "\n"]),
    st.sampled_from([*"abAB-;,\"'.°é", "\u0085", "ſ", "K", "\U0001f3fa", "ẞ", "\u2010"]),
    st.characters(exclude_categories=["Cs"]),
)
CELLS = st.one_of(st.none(), st.text(CHARACTERS, max_size=8))
COLUMNS = st.lists(CELLS, max_size=30)


def layouts(cells: list[str | None]) -> list[Any]:
    """The same column laid out in three ways in memory."""
    plain = pa.array(cells, pa.string())
    around = pa.array(["x ", None, *cells, " y"], pa.string()).slice(2, len(cells))
    texts = [cell if cell is not None else " left - over;" for cell in cells]
    offsets = np.concatenate(([0], np.cumsum([len(text.encode()) for text in texts]))).astype(np.int32)
    valid = np.array([cell is not None for cell in cells], np.bool_)
    under = build("".join(texts).encode(), offsets, valid) if cells else plain
    return [plain, around, under]
