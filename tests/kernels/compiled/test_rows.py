"""Rows taken from text columns and keys numbered by the compiled kernels, against Arrow and NumPy."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import layouts
from tests.kernels.compiled.twins import built, by_numpy

from mangler.kernels.taking import take
from mangler.kernels.text.text_view import with_text

CELLS = st.lists(
    st.none() | st.text(max_size=5) | st.integers(1, 200).map("é".__mul__), min_size=1, max_size=30
)


@built
@settings(max_examples=600)
@given(CELLS, st.data())
def test_cells_are_taken_as_by_arrow(cells: list[str | None], data: st.DataObject) -> None:
    """From slices, with nulls, with one cell many times, and none at all."""
    places = np.array(data.draw(st.lists(st.integers(0, len(cells) - 1), max_size=60)), np.int64)
    for column in layouts(cells):
        found = take(column, places)
        found.validate(full=True)
        with by_numpy():
            wanted = take(column, places)
        assert found.equals(wanted) and found.null_count == wanted.null_count


@built
def test_bytes_under_a_null_are_left_behind() -> None:
    buffers = pa.array(["secret", "b"]).buffers()
    column = pa.Array.from_buffers(pa.string(), 2, [pa.py_buffer(b"\x02"), *buffers[1:]])
    taken = take(column, np.array([0, 1, 0]))
    assert taken.to_pylist() == [None, "b", None] and b"secret" not in taken.buffers()[2].to_pybytes()


@built
def test_more_text_than_one_column_holds_is_refused_as_by_arrow() -> None:
    column = pa.array(["x" * (1 << 20)])
    with pytest.raises((pa.ArrowInvalid, pa.ArrowCapacityError)):
        take(column, np.zeros(2049, np.int64))


@built
def test_an_empty_column_and_no_places() -> None:
    assert take(pa.array([], pa.string()), np.array([], np.int64)).to_pylist() == []
    empty = with_text(pa.array(["", ""]), np.empty(0, np.uint8), np.zeros(3, np.int32))
    assert take(empty, np.array([1, 0, 1])).to_pylist() == [""] * 3
