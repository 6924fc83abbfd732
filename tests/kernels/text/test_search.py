from __future__ import annotations

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.kernels.arrays import COLUMNS, layouts

from mangler.kernels.text.concatenate import concatenate
from mangler.kernels.text.growth import bounded
from mangler.kernels.text.search import holds, is_one_of
from mangler.kernels.text.text_view import TooLargeError
from mangler.kernels.text.truth import true_flags, truth_of

TEXTS = st.text(st.sampled_from("ab é"), max_size=4)


@given(COLUMNS, TEXTS)
def test_holds_is_pythons_in(cells: list[str | None], text: str) -> None:
    for array in layouts(cells):
        assert holds(array, text).tolist() == [cell is not None and text in cell for cell in cells]


def test_a_text_over_the_border_of_two_cells_is_in_neither() -> None:
    assert holds(pa.array(["ab", "cd", "bc"]), "bc").tolist() == [False, False, True]


@given(COLUMNS, st.lists(TEXTS, min_size=1, max_size=12))
def test_is_one_of_is_pythons_in(cells: list[str | None], texts: list[str]) -> None:
    for array in layouts(cells):
        assert is_one_of(array, [*texts, "a"]).tolist() == [cell in [*texts, "a"] for cell in cells]


@given(COLUMNS, st.lists(TEXTS, max_size=3))
def test_concatenating_is_joining(cells: list[str | None], between: list[str]) -> None:
    for array in layouts(cells):
        pieces = [array, *(text.encode() for text in between), array]
        expected = [None if cell is None else cell + "".join(between) + cell for cell in cells]
        out = concatenate(pieces, len(cells))
        out.validate(full=True)
        assert out.to_pylist() == expected


def test_texts_too_large_for_a_step_are_refused() -> None:
    with bounded(5), pytest.raises(TooLargeError, match="would take 6 bytes, and a step may take 5 bytes"):
        concatenate([pa.array(["abc"]), b"def"], 1)
    with bounded(6):
        assert concatenate([pa.array(["abc"]), b"def"], 1).to_pylist() == ["abcdef"]


@given(st.lists(st.none() | st.booleans(), max_size=40), st.integers(0, 9))
def test_truth_and_flags(values: list[bool | None], skip: int) -> None:
    array = pa.array([None, *values, True], pa.bool_()).slice(min(skip, len(values)))
    assert true_flags(array).tolist() == [value is True for value in array.to_pylist()]
    back = truth_of(true_flags(array), array)
    back.validate(full=True)
    assert back.to_pylist() == array.to_pylist()
