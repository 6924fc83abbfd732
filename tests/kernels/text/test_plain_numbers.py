"""Plain numbers, by their bytes, against a pattern."""

from __future__ import annotations

import re

import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.text.plain_numbers import NO_NUMBER, NULL, whole_places

CELLS = st.lists(st.none() | st.text("0127+-., aé", max_size=6), max_size=12)


def expected(cell: str | None) -> int:
    if cell is None:
        return NULL
    found = re.fullmatch(r"[+-]?([0-9]+)(?:[.,][0-9]+)?", cell)
    return len(found.group(1)) if found else NO_NUMBER


@given(CELLS, st.integers(0, 3))
def test_numbers_are_those_of_the_pattern(cells: list[str | None], cut: int) -> None:
    array = pa.array(cells, pa.string()).slice(min(cut, len(cells)))
    assert whole_places(array).tolist() == [expected(cell) for cell in cells[min(cut, len(cells)) :]]
