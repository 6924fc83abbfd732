"""Columns as the values that they have."""

from __future__ import annotations

from collections import Counter

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import CELLS, layouts

from mangler.kernels.text.dictionary import as_dictionary, counted

LIKE_EACH_OTHER = st.one_of(
    CELLS,
    st.text("ab\0", min_size=6, max_size=18),
    st.tuples(st.sampled_from(["", "x" * 8, "x" * 16, "x" * 17, "x" * 40]), st.text("ab", max_size=2)).map(
        "".join
    ),
)
"""Cells of the sizes at which they are compared in another way, and alike but for a byte."""


@settings(max_examples=500)
@given(st.lists(LIKE_EACH_OTHER, max_size=40), st.booleans())
def test_values_and_numbers_are_those_of_arrow(cells: list[str | None], with_nulls: bool) -> None:
    for column in layouts(cells):
        found = as_dictionary(column, with_nulls)
        found.validate(full=True)
        wanted = column.dictionary_encode(null_encoding="encode" if with_nulls else "mask")
        assert found.indices.to_pylist() == wanted.indices.to_pylist()
        assert found.dictionary.to_pylist() == wanted.dictionary.to_pylist()


@pytest.mark.parametrize("values", [2047, 2048, 2049, 5000])
@pytest.mark.parametrize("with_nulls", [False, True])
@pytest.mark.parametrize("before", [[], [None], ["x", None, "0"]])
def test_more_values_than_are_told_apart_at_first(
    values: int, with_nulls: bool, before: list[str | None]
) -> None:
    column = pa.array([*before, *(f"{number % values}" for number in range(7000)), None, "0", None])
    found = as_dictionary(column, with_nulls)
    found.validate(full=True)
    wanted = column.dictionary_encode(null_encoding="encode" if with_nulls else "mask")
    assert found.equals(wanted)


def test_columns_of_other_types_and_in_chunks() -> None:
    for column in (pa.array([3, 1, 3, None]), pa.chunked_array([["b", "a"], ["b", None]])):
        assert as_dictionary(column).equals(column.dictionary_encode())


@settings(max_examples=300)
@given(st.lists(st.one_of(st.none(), st.sampled_from(["", "a", "b", "x" * 20])), max_size=30))
def test_values_are_counted(cells: list[str | None]) -> None:
    for column in layouts(cells):
        values, counts = counted(column)
        filled = [cell for cell in cells if cell is not None]
        assert dict(zip(values.to_pylist(), counts.tolist(), strict=True)) == Counter(filled)
        assert values.to_pylist() == list(dict.fromkeys(filled))


def test_more_values_are_counted_too() -> None:
    column = pa.array([None, *(f"{number % 3000}" for number in range(7000)), None])
    values, counts = counted(column)
    assert len(values) == 3000
    assert counts.sum() == 7000
