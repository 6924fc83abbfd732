"""Sums against Python's own whole numbers and fractions, in any order and however they are divided."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction

import numpy as np
import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.values.convert import DECIMAL
from mangler.kernels.values.exact_sums import (
    added,
    float_pieces,
    float_sums,
    pieces_of,
    to_decimals,
    to_floats,
    to_integers,
)

GROUPS = 3
WHOLE = st.one_of(st.none(), st.integers(-(2**63), 2**63 - 1), st.integers(-5, 5))
EXACT = st.one_of(st.none(), st.decimals(-(10**28), 10**28, places=9))
FLOATS = st.floats(allow_nan=False, allow_infinity=False)


def rows_of(values: st.SearchStrategy) -> st.SearchStrategy:  # type: ignore[type-arg]
    return st.lists(st.tuples(st.integers(0, GROUPS - 1), values), max_size=25)


def twice_added(codes: np.ndarray, pieces: list[np.ndarray], at: int) -> list[np.ndarray]:
    """The rows up to here, and the others, folded apart and then together."""
    parts = [
        added(codes[some], GROUPS, [p[some] for p in pieces]) for some in (slice(None, at), slice(at, None))
    ]
    both = [np.concatenate(pair) for pair in zip(*parts, strict=True)]
    return added(np.tile(np.arange(GROUPS), 2), GROUPS, both)


@given(rows_of(WHOLE), st.integers(0, 25))
def test_integers(rows: list[tuple[int, int | None]], at: int) -> None:
    codes = np.array([code for code, _ in rows], np.int64)
    column = pa.array([0, *(value for _, value in rows)], pa.int64()).slice(1)
    sums, too_large = to_integers(twice_added(codes, pieces_of(column), at))
    for group in range(GROUPS):
        exact = sum(value or 0 for code, value in rows if code == group)
        fits = -(2**63) <= exact < 2**63
        assert too_large[group] == (not fits)
        assert sums[group].as_py() == (exact if fits else None)
    near = to_floats(added(codes, GROUPS, pieces_of(column)))
    assert np.allclose(near, [float(sum(v or 0 for c, v in rows if c == g)) for g in range(GROUPS)])


@given(rows_of(EXACT), st.integers(0, 25))
def test_decimals(rows: list[tuple[int, Decimal | None]], at: int) -> None:
    codes = np.array([code for code, _ in rows], np.int64)
    column = pa.array([Decimal(1), *(value for _, value in rows)], DECIMAL).slice(1)
    sums, too_large = to_decimals(twice_added(codes, pieces_of(column), at))
    for group in range(GROUPS):
        exact = sum((Fraction(value or 0) for code, value in rows if code == group), Fraction())
        fits = abs(exact) < 10**29
        assert too_large[group] == (not fits)
        assert (sums[group].as_py() is not None) == fits
        assert not fits or Fraction(sums[group].as_py()) == exact


def test_a_decimal_sum_of_more_digits_than_there_are() -> None:
    for sign in ("", "-"):
        most = f"{sign}{'9' * 29}.{'9' * 9}"
        column = pa.array([most, f"{sign}0.000000001"]).cast(DECIMAL)
        sums, too_large = to_decimals(added(np.zeros(2, np.int64), 1, pieces_of(column)))
        assert too_large.tolist() == [True] and sums.to_pylist() == [None]
        alone, _ = to_decimals(added(np.zeros(1, np.int64), 1, pieces_of(column.slice(0, 1))))
        assert alone.to_pylist() == [Decimal(most)]


@given(rows_of(FLOATS), st.randoms(use_true_random=False))
def test_floats_are_rounded_once_and_in_any_order(rows: list[tuple[int, float]], random: object) -> None:
    shuffled = list(rows)
    random.shuffle(shuffled)  # type: ignore[attr-defined]
    found = []
    for order in (rows, shuffled):
        codes = np.array([code for code, _ in order], np.int64)
        of, places, amounts = float_pieces(np.array([value for _, value in order], np.float64))
        over = np.bincount(codes, minlength=GROUPS)
        sums, too_large = float_sums(codes[of], GROUPS, places, amounts, over)
        found.append((sums.to_pylist(), too_large.tolist()))
    assert found[0] == found[1]
    for group, (mean, too_large) in enumerate(zip(*found[0], strict=True)):
        values = [Fraction(value) for code, value in rows if code == group]
        if not values:
            assert mean is None and not too_large
        elif not too_large:
            assert mean == float(sum(values) / len(values))


def test_a_sum_beyond_the_largest_float() -> None:
    of, places, amounts = float_pieces(np.array([1.7e308, 1.7e308, -1.7e308]))
    one = np.ones(1, np.int64)
    zeros = np.zeros(len(of), np.int64)
    sums, too_large = float_sums(zeros, 1, places, amounts, one)
    assert sums.to_pylist() == [1.7e308] and not too_large.any()
    first = of < 2
    sums, too_large = float_sums(zeros[first], 1, places[first], amounts[first], one)
    assert sums.to_pylist() == [None] and too_large.all()
