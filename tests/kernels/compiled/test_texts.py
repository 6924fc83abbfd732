"""Texts replaced by the compiled kernel, against Arrow's patterns."""

from __future__ import annotations

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import layouts
from tests.kernels.compiled.twins import built, by_numpy

from mangler.kernels.text.growth import bounded
from mangler.kernels.text.left_behind import left_by_case_anywhere
from mangler.kernels.text.replace import Swap, replace
from mangler.kernels.text.text_view import TooLargeError

PIECES = st.text(st.sampled_from("aabé. "), min_size=1, max_size=3)
SWAPS = st.lists(
    st.builds(Swap, PIECES, st.text(st.sampled_from("abé"), max_size=4), st.just(False)),
    min_size=1,
    max_size=4,
    unique_by=lambda swap: swap.match,
)
CELLS = st.lists(st.none() | st.text(st.sampled_from("aaabé. "), max_size=12), max_size=20)


@built
@settings(max_examples=1000)
@given(CELLS, SWAPS)
def test_texts_are_replaced_as_by_patterns(cells: list[str | None], swaps: list[Swap]) -> None:
    """Overlapping texts, texts inside others, and texts that come out as they were."""
    for column in layouts(cells):
        found, changed = replace(column, swaps, False)
        found.validate(full=True)
        with by_numpy():
            wanted, as_many = replace(column, swaps, False)
        assert (found.to_pylist(), changed) == (wanted.to_pylist(), as_many)


@built
def test_what_would_be_too_large_is_refused_before_it_is_made() -> None:
    column = pa.array(["a" * 1000] * 1000)
    with bounded(10_000_000), pytest.raises(TooLargeError, match=r"100\.0 MB"):
        replace(column, [Swap("a", "b" * 100, False)], False)


@settings(max_examples=300)
@given(
    st.lists(
        st.sampled_from(["clay works", "Clay works", "clay", "", None, "works at Clay"]),
        min_size=1,
        max_size=9,
    ),
    st.lists(st.sampled_from(["clay", "works", "Clay works"]), min_size=1, max_size=2, unique=True),
)
def test_columns_of_few_values_are_as_others(cells: list[str | None], texts: list[str]) -> None:
    """Where each value is in many cells it is looked at once."""
    swaps = [Swap(text, f"<{text[:2]}>", is_pattern=False) for text in texts]
    once = pa.array(cells, pa.string())
    often = pa.array(cells * 40, pa.string())
    one, changed = replace(once, swaps, anycase=False)
    many, changed_often = replace(often, swaps, anycase=False)
    many.validate(full=True)
    assert many.to_pylist() == one.to_pylist() * 40
    assert changed_often == changed * 40
    missed = left_by_case_anywhere(once, texts).tolist()
    assert left_by_case_anywhere(often, texts).tolist() == missed * 40


@built
@settings(max_examples=1000)
@given(
    st.lists(st.none() | st.text(st.sampled_from("aAbBé."), max_size=9), max_size=12),
    st.lists(st.text(st.sampled_from("aAbB."), min_size=1, max_size=3), min_size=1, max_size=4),
)
def test_what_is_cased_otherwise_is_what_numpy_finds(cells: list[str | None], texts: list[str]) -> None:
    for column in layouts(cells):
        found = left_by_case_anywhere(column, texts).tolist()
        with by_numpy():
            assert found == left_by_case_anywhere(column, texts).tolist()
