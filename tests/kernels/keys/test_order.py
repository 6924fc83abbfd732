"""The order of rows: by ranks of values, and by bytes where texts have one length."""

from __future__ import annotations

from functools import cmp_to_key
from typing import Any

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import layouts
from tests.kernels.compiled.twins import by_numpy

from mangler.kernels.keys.order import SortKey, sort_order

KEYS = st.builds(SortKey, descending=st.booleans(), anycase=st.booleans(), nulls_first=st.booleans())
OF_ONE_LENGTH = st.integers(1, 18).flatmap(
    lambda size: st.lists(
        st.one_of(st.none(), st.text("019-é"[:4], min_size=size, max_size=size)), max_size=14
    )
)


def wanted(columns: list[list[str | None]], keys: list[SortKey]) -> list[int]:
    """The rows in their order, compared cell by cell."""

    def compare(one: int, other: int) -> int:
        for cells, key in zip(columns, keys, strict=True):
            left, right = cells[one], cells[other]
            if left == right:
                continue
            if left is None or right is None:
                return -1 if (left is None) == key.nulls_first else 1
            if key.anycase:
                left, right = left.upper().lower(), right.upper().lower()
            if left != right:
                return -1 if (left < right) != key.descending else 1
        return one - other

    return sorted(range(len(columns[0])), key=cmp_to_key(compare))


@settings(max_examples=400)
@given(OF_ONE_LENGTH, KEYS)
def test_texts_of_one_length_go_by_their_bytes(cells: list[str | None], key: SortKey) -> None:
    """Without the kernel that tells few values apart, their bytes are looked at whatever they are."""
    for column in layouts(cells) if cells else []:
        with by_numpy():
            assert sort_order([column], [key]).tolist() == wanted([cells], [key])
        assert sort_order([column], [key]).tolist() == wanted([cells], [key])


@settings(max_examples=200)
@given(
    st.lists(
        st.tuples(
            st.one_of(st.none(), st.text("abé", max_size=2)),
            st.one_of(st.none(), st.text("019", min_size=6, max_size=6)),
        ),
        min_size=1,
        max_size=20,
    ),
    KEYS,
    KEYS,
)
def test_several_keys(rows: list[tuple[str | None, str | None]], first: SortKey, second: SortKey) -> None:
    columns = [list(cells) for cells in zip(*rows, strict=True)]
    arrays = [pa.array(cells, pa.string()) for cells in columns]
    found = sort_order(arrays, [first, second]).tolist()
    assert found == wanted(columns, [first, second])
    with by_numpy():
        assert sort_order(arrays, [first, second]).tolist() == found


@pytest.mark.parametrize("digits", [4, 9, 12, 13, 18, 40])
@pytest.mark.parametrize("key", [SortKey(), SortKey(descending=True, nulls_first=True)])
def test_more_rows_than_are_told_apart(digits: int, key: SortKey) -> None:
    """Many values, with equal ones that keep their order: in few bits, in many, and in more than are packed."""
    some = np.random.default_rng(7)
    cells: list[Any] = [
        f"{number:0{digits}d}" for number in some.integers(0, 10 ** min(digits, 18), 6000).tolist()
    ]
    cells += [*cells[:1500], None, None]
    found = sort_order([pa.array(cells)], [key])
    assert found.tolist() == wanted([cells], [key])
