"""Numbers that two lists share are found, in whatever order they are."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.insight.comparison import matching


@given(
    st.lists(st.integers(0, 60), unique=True, max_size=50),
    st.lists(st.tuples(st.integers(0, 60), st.integers(0, 50)), max_size=12),
    st.sampled_from([1, 2, 5, 256]),
    st.booleans(),
)
def test_shared_numbers_are_found_in_step_and_out_of_step(
    numbers: list[int], edits: list[tuple[int, int]], ahead: int, shuffled: bool
) -> None:
    other = list(numbers)
    for number, at in edits:  # taken away where it is there, else put in
        if number in other:
            other.remove(number)
        else:
            other.insert(min(at, len(other)), number)
    if shuffled:
        other.sort(key=lambda number: number % 7)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(matching, "AHEAD", ahead)
        found = matching.same_numbers(np.array(numbers, np.uint64), np.array(other, np.uint64))
    expected = [(at, other.index(number)) for at, number in enumerate(numbers) if number in other]
    assert list(zip(*(one.tolist() for one in found), strict=True)) == expected
