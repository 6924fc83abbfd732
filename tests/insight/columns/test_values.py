"""Distinct values: exact up to the bound, a fair sample beyond it."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.insight.columns.facts import distinct_in
from mangler.insight.columns.values import (
    ALL_VALUES,
    LEAST_VALUES,
    LONG,
    MOST_VALUES,
    Values,
    bound_for,
    rounded,
)


def absorbed(blocks: list[list[str]], bound: int) -> Values:
    values = Values(bound)
    for block in blocks:
        distinct, counts, _ = distinct_in(pa.array(block, pa.string()))
        values.absorb(distinct, counts)
    values.settle()
    return values


@given(st.lists(st.lists(st.text("abc", max_size=2), max_size=20), max_size=6))
def test_up_to_the_bound_every_value_has_all_its_cells(blocks):
    values = absorbed(blocks, 100)
    expected = Counter(cell for block in blocks for cell in block)
    assert values.exact
    assert values.distinct == len(expected)
    assert dict(zip(values.values.to_pylist(), values.counts.tolist(), strict=True)) == expected


def test_beyond_the_bound_kept_values_have_all_their_cells_and_tell_how_many_there_are():
    random = np.random.default_rng(20260504)
    numbers = random.integers(0, 40_000, 200_000)
    blocks = [
        [f"F{n}" for n in numbers[start : start + 10_000].tolist()] for start in range(0, 200_000, 10_000)
    ]
    values = absorbed(blocks, 2_000)
    expected = Counter(f"F{n}" for n in numbers.tolist())
    assert not values.exact
    assert len(values.values) <= 3_000
    assert abs(values.distinct - len(expected)) < 0.15 * len(expected)
    low = values._low(values.values)
    kept = dict(zip(values.values.to_pylist(), values.counts.tolist(), strict=True))
    sampled = [value for value, is_low in zip(kept, low.tolist(), strict=True) if is_low]
    assert len(sampled) > 500
    assert all(kept[value] == expected[value] for value in sampled)


def test_the_sample_does_not_depend_on_the_blocks():
    cells = [f"value {n}" for n in range(5_000)]
    few = absorbed([cells], 500)
    many = absorbed([cells[start : start + 7] for start in range(0, len(cells), 7)], 500)
    assert few.limit == many.limit
    assert set(few.values.to_pylist()) == set(many.values.to_pylist())


def test_a_frequent_value_stays_among_ever_new_ones():
    blocks = [[f"{block} {n}" for n in range(300)] + ["none"] * 30 for block in range(40)]
    values = absorbed(blocks, 500)
    kept = dict(zip(values.values.to_pylist(), values.counts.tolist(), strict=True))
    assert kept["none"] == 1_200


def test_values_too_long_are_counted_and_not_kept():
    values = absorbed([["x" * (LONG + 1), "a"], ["y" * (LONG + 1), "x" * (LONG + 1)]], 100)
    assert values.distinct == 3
    assert values.values.to_pylist() == ["a"]
    assert not values.exact


def test_the_bound_is_lower_where_there_are_many_columns():
    assert bound_for(1) == MOST_VALUES
    assert bound_for(100) == ALL_VALUES // 100
    assert bound_for(100_000) == LEAST_VALUES


def test_an_estimate_has_two_digits():
    assert [rounded(n) for n in (7, 99, 134_044, 1_076_951)] == [7, 99, 130_000, 1_100_000]
