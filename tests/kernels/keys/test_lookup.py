from __future__ import annotations

from collections import defaultdict

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.kernels.arrays import layouts

from mangler.kernels.keys.lookup import key_table, near_forms

CELL = st.sampled_from([None, "", "a", "A", "b", "é", "aa"])
ROWS = st.lists(st.tuples(CELL, CELL, CELL), max_size=15)


@given(ROWS, ROWS, st.integers(1, 3))
def test_keys_are_found_as_in_a_dictionary(
    known: list[tuple[str | None, ...]], wanted: list[tuple[str | None, ...]], width: int
) -> None:
    rows = defaultdict(list)
    for number, row in enumerate(known):
        rows[row[:width]].append(number)
    table = key_table([pa.array([row[i] for row in known], pa.string()) for i in range(width)], len(known))
    for made in zip(*(layouts([row[i] for row in wanted]) for i in range(width)), strict=True):
        for row, key in zip(wanted, table.find(made).tolist(), strict=True):
            there = [] if None in row[:width] else rows[row[:width]]
            assert (key >= 0) == bool(there)
            if there:
                start = int(table.starts[key])
                assert table.rows[start : start + int(table.counts[key])].tolist() == there


@pytest.mark.parametrize(
    ("one", "other", "same"),
    [
        ("K7", "k7", True),
        ("Clay\u00a0Works ", "clay works", True),
        ("007", "7", True),
        ("000", "0", True),
        ("70", "7", False),
        ("Größe", "GRÖßE", True),
        (" ", "", True),
    ],
)
def test_what_a_hurried_eye_takes_for_the_same(one: str, other: str, same: bool) -> None:
    left, right = near_forms(pa.array([one, other], pa.string())).to_pylist()
    assert (left == right) == same
