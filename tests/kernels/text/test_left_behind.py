"""Cells that hold a text in another letter case, against a plain count."""

from __future__ import annotations

import pyarrow as pa
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from mangler.kernels.text.left_behind import left_by_case, left_by_case_anywhere
from mangler.kernels.text.replace import Swap

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


@example(["Aaa"], ["aa"], 0)
@example(["aaA"], ["aa"], 0)
@given(CELLS, TEXTS, st.integers(0, 3))
def test_cells_are_those_with_the_text_in_another_case(
    cells: list[str | None], texts: list[str], cut: int
) -> None:
    cut = min(cut, len(cells))
    found = left_by_case_anywhere(pa.array(cells, pa.string()).slice(cut), texts)
    assert found.tolist() == [holds_otherwise(cell, texts) for cell in cells[cut:]]


@pytest.mark.parametrize("cell", ["Aaa", "aaA"])
def test_texts_that_overlap_themselves(cell: str) -> None:
    """Once in the cell as it is asked for, and once otherwise, over one letter that both share."""
    column = pa.array([cell])
    assert left_by_case_anywhere(column, ["aa"]).tolist() == [True]
    assert left_by_case(pa.array(["aAa"]), [Swap("aa", "x", is_pattern=False)]).tolist() == [True]
