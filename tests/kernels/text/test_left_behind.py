"""Cells that hold a text in another letter case, against a plain count."""

from __future__ import annotations

import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.text.left_behind import left_by_case_anywhere

CELLS = st.lists(st.none() | st.text("aAbBé ;", max_size=8), max_size=10)
TEXTS = st.lists(st.sampled_from(["a", "A", "ab", "aB", "aa", "ba;", "é", ";"]), min_size=1, max_size=3)


def holds_otherwise(cell: str | None, texts: list[str]) -> bool:
    """Whether at some place a text is in another spelling than any that is asked for."""
    asked = {text for text in texts if text.isascii() and text.lower() != text.upper()}
    return any(
        cell[at : at + len(text)].lower() == text.lower() and cell[at : at + len(text)] not in asked
        for text in asked
        for at in range(len(cell or ""))
        if cell is not None
    )


@given(CELLS, TEXTS, st.integers(0, 3))
def test_cells_are_those_with_the_text_in_another_case(
    cells: list[str | None], texts: list[str], cut: int
) -> None:
    cut = min(cut, len(cells))
    found = left_by_case_anywhere(pa.array(cells, pa.string()).slice(cut), texts)
    assert found.tolist() == [holds_otherwise(cell, texts) for cell in cells[cut:]]
