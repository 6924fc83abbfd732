"""Cells of any type as texts."""

from __future__ import annotations

import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.values.spelled import spelled


@given(
    cells=st.lists(st.none() | st.lists(st.none() | st.sampled_from(["a", "", "é"]), max_size=3), max_size=8),
    start=st.integers(0, 8),
    count=st.integers(0, 8),
)
def test_slices_of_lists_are_spelled_as_the_whole(
    cells: list[list[str | None] | None], start: int, count: int
) -> None:
    column = pa.array(cells, pa.list_(pa.string()))
    wanted = [None if one is None else "; ".join(part or "" for part in one) for one in cells]
    assert spelled(column).to_pylist() == wanted
    assert spelled(column.slice(start, count)).to_pylist() == wanted[start : start + count]
