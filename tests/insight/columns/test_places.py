"""Where cells are in a file, whatever blocks it is counted in."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from mangler.insight.columns.places import MOST_STRETCHES, Places


@given(st.integers(1, 5_000), st.data())
def test_places_do_not_depend_on_blocks(rows: int, data: st.DataObject) -> None:
    chosen = sorted(data.draw(st.sets(st.integers(1, rows), max_size=80)))
    cuts = sorted(data.draw(st.sets(st.integers(1, rows), max_size=6)))
    added = Places()
    for start, end in zip([0, *cuts], [*cuts, rows], strict=True):
        added.add(Places.of(np.array([row for row in chosen if start < row <= end], np.int64)))
    width, counts = added.over(rows)
    assert (width, counts) == Places.of(np.array(chosen, np.int64)).over(rows)
    assert sum(counts) == len(chosen) and len(counts) <= MOST_STRETCHES and width * len(counts) >= rows
    for index, count in enumerate(counts):
        assert count == sum(index * width < row <= (index + 1) * width for row in chosen)
