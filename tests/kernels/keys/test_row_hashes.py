"""Rows are known again by all bytes of all their cells."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.keys.row_hashes import row_hashes

cells = st.lists(
    st.one_of(st.none(), st.text(max_size=300), st.sampled_from(["x" * 70, "x" * 64, ""])), max_size=12
)


@given(one=cells, other=cells, offset=st.integers(0, 3))
def test_rows_are_alike_where_all_cells_are(
    one: list[str | None], other: list[str | None], offset: int
) -> None:
    count = min(len(one), len(other))
    columns = [pa.array(texts[:count], pa.string()) for texts in (one, other)]
    found = row_hashes(columns, count)
    rows = list(zip(one[:count], other[:count], strict=True))
    assert len(set(found.tolist())) == len(set(rows))
    # Slices give the same.
    sliced = [column.slice(offset) for column in columns]
    assert np.array_equal(row_hashes(sliced, len(sliced[0])), found[offset:])


@given(text=st.text("ab", min_size=65, max_size=400), data=st.data())
def test_one_letter_anywhere_makes_another(text: str, data: st.DataObject) -> None:
    at = data.draw(st.integers(0, len(text) - 1))
    other = text[:at] + "c" + text[at + 1 :]
    one, two = row_hashes([pa.array([text, other])], 2)
    assert one != two
    # Also where two words change places.
    swapped = text[8:16] + text[:8] + text[16:]
    three = row_hashes([pa.array([swapped])], 1)[0]
    assert (three == one) == (swapped == text)
