from __future__ import annotations

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.text.join_columns import join_columns
from mangler.kernels.text.text_view import TooLargeError

CELL = st.none() | st.text(st.sampled_from("aé; "), max_size=3)


@given(
    rows=st.lists(st.tuples(CELL, CELL, CELL), max_size=10),
    separator=st.sampled_from(["", "; ", "é"]),
    skip=st.booleans(),
    filler=st.sampled_from([None, "", "none"]),
)
def test_joined_as_plain_python_joins(
    rows: list[tuple[str | None, ...]], separator: str, skip: bool, filler: str | None
) -> None:
    columns = [pa.array([row[n] for row in rows], pa.string()) for n in range(3)]
    expected: list[str | None] = []
    for row in rows:
        if all(cell is None for cell in row) or (None in row and not skip and filler is None):
            expected.append(None)
        elif skip:
            expected.append(separator.join(cell for cell in row if cell is not None))
        else:
            expected.append(separator.join(filler or "" if cell is None else cell for cell in row))
    assert join_columns(columns, separator, skip, filler).to_pylist() == expected


def test_more_than_a_column_can_hold_is_refused() -> None:
    columns = [pa.array(["a"] * 3000)] * 2
    with pytest.raises(TooLargeError):
        join_columns(columns, "x" * 1_000_000)
