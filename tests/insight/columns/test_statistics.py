"""Figures of numbers with weights, compared with the numbers written out."""

from __future__ import annotations

import statistics

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.insight.columns.statistics import BARS, Numbers

WEIGHTED = st.lists(st.tuples(st.integers(-1000, 1000), st.integers(1, 5)), min_size=1, max_size=20)


def numbers(pairs: list[tuple[float, int]]) -> Numbers:
    return Numbers(
        np.array([value for value, _ in pairs], float), np.array([count for _, count in pairs], np.int64)
    )


@given(WEIGHTED)
def test_figures_are_those_of_the_numbers_written_out(pairs):
    written_out = [value for value, count in pairs for _ in range(count)]
    found = numbers(pairs)
    assert (found.least, found.most) == (min(written_out), max(written_out))
    assert found.mean == pytest.approx(statistics.fmean(written_out))
    assert found.median == statistics.median_low(written_out)
    assert sum(found.histogram) == len(written_out)
    assert len(found.histogram) == (1 if found.least == found.most else BARS)


def test_far_out_needs_cells_enough_and_few_of_them():
    usual = [(1200 + n, 5) for n in range(20)]
    assert numbers([*usual, (12_222, 1)]).far_out.values.tolist() == [12_222]
    assert numbers([*usual, (12_222, 30)]).far_out.values.tolist() == []
    assert numbers([(1200, 3), (12_222, 1)]).far_out.values.tolist() == []
    assert numbers([(1200, 50), (12_222, 1)]).far_out.values.tolist() == []


def test_a_long_tail_is_no_outlier():
    sizes = [(2.0**n, 4) for n in range(12)]
    assert numbers(sizes).far_out.values.tolist() == []
