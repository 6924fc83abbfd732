from __future__ import annotations

import datetime
from decimal import Decimal
from statistics import median
from typing import Any

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.kernels.arrays import layouts

from mangler.kernels.keys.group_order import (
    chosen,
    extreme,
    first_of,
    in_groups,
    joined,
    listed,
    middle,
    stable_group_order,
)
from mangler.kernels.values.convert import DECIMAL

CODES = st.integers(0, 3)


@given(st.lists(CODES, max_size=40))
def test_rows_are_group_by_group_as_they_came(codes: list[int]) -> None:
    order = stable_group_order(np.array(codes, np.int64))
    assert order.tolist() == sorted(range(len(codes)), key=lambda row: codes[row])
    wide = np.array(codes, np.int64) * 2**60  # which leaves no room for row numbers
    assert stable_group_order(wide).tolist() == order.tolist()
    for numbers in (np.array(codes, np.int64), wide):
        rows, groups = in_groups(numbers)
        assert (rows.tolist(), groups.tolist()) == (order.tolist(), sorted(numbers.tolist()))


@given(st.lists(CODES, max_size=20), st.randoms(use_true_random=False))
def test_the_first_of_some_rows_in_an_order(codes: list[int], random: Any) -> None:
    rows = [row for row in range(len(codes)) if random.random() < 0.7]
    random.shuffle(rows)
    found = first_of(np.array(codes, np.int64), 4, np.array(rows, np.int64))
    expected = [next((row for row in rows if codes[row] == group), -1) for group in range(4)]
    assert found.tolist() == expected
    cells = pa.array([str(row) for row in range(len(codes))], pa.string())
    assert chosen(cells, found).to_pylist() == [None if row < 0 else str(row) for row in expected]


DAY = datetime.date(2026, 5, 4)
VALUES = {
    "integer": (pa.int64(), [-(2**63), -1, 0, 2**63 - 1]),
    "float": (pa.float64(), [-1.5, 0.0, 2.0, 1e300]),
    "decimal": (DECIMAL, [Decimal("-0.5"), Decimal(0), Decimal("1.000000001")]),
    "boolean": (pa.bool_(), [True, False]),
    "date": (pa.date32(), [DAY, DAY.replace(year=1960), DAY.replace(day=5)]),
    "time": (pa.time64("us"), [datetime.time(9, 30), datetime.time(9, 30, 1), datetime.time(0)]),
    "timestamp": (pa.timestamp("us"), [datetime.datetime(2026, 5, 4, 9), datetime.datetime(1960, 1, 1)]),
    "text": (pa.string(), ["", "a", "B", "ä", "aa"]),
}


@pytest.mark.parametrize("kind", VALUES)
@given(data=st.data())
def test_the_least_and_the_greatest_of_every_type(kind: str, data: st.DataObject) -> None:
    arrow, values = VALUES[kind]
    rows = data.draw(st.lists(st.tuples(CODES, st.sampled_from([None, *values])), max_size=20))
    codes = np.array([code for code, _ in rows], np.int64)
    column = pa.array([values[0], *(value for _, value in rows)], arrow).slice(1)
    for greatest, pick in ((False, min), (True, max)):
        found = extreme(codes, 4, column, greatest)
        assert found.type == arrow
        for group in range(4):
            own: list[Any] = [value for code, value in rows if code == group and value is not None]
            expected = pick(own, key=lambda v: v.encode() if isinstance(v, str) else v) if own else None
            assert found[group].as_py() == expected


@given(st.lists(st.lists(st.sampled_from(["", "x", "é;"]), max_size=4), min_size=1, max_size=8))
def test_lists_and_joined_texts(groups: list[list[str]]) -> None:
    offsets = np.cumsum([0, *map(len, groups)])
    flat = [text for own in groups for text in own]
    for values in layouts(list(flat)):
        assert listed(values, offsets).to_pylist() == [own or None for own in groups]
        expected = ["; ".join(own) if own else None for own in groups]
        assert joined(values, offsets, "; ").to_pylist() == expected


@given(st.lists(st.lists(st.floats(-1e300, 1e300), max_size=5), min_size=1, max_size=6))
def test_the_median(groups: list[list[float]]) -> None:
    offsets = np.cumsum([0, *map(len, groups)])
    values = np.array([value for own in groups for value in sorted(own)], np.float64)
    found = middle(values, offsets).to_pylist()
    assert [value is None for value in found] == [not own for own in groups]
    for value, own in zip(found, groups, strict=True):
        if own:
            assert value == pytest.approx(median(own), rel=1e-15, abs=5e-324)
