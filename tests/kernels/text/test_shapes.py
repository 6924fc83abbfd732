"""Shapes of texts, and marks in them, compared with plain Python."""

from __future__ import annotations

import re

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.kernels.arrays import layouts

from mangler.kernels.text.mark_counts import marks_per_cell
from mangler.kernels.text.shapes import LONGEST, shapes
from mangler.kernels.text.text_view import view

TEXTS = st.lists(st.none() | st.text(st.sampled_from("ab19 .,°€–éß窯X/-"), max_size=9), max_size=12)


def python_shape(text: str) -> str:
    marked = "".join(
        "9" if c in "0123456789" else "$" if c in "°€–" else "a" if c.isalpha() else c for c in text
    )
    return re.sub("a+", "a", marked)


@given(TEXTS)
def test_a_shape_is_digits_as_nines_and_runs_of_letters_as_one(cells):
    expected = [None if cell is None else python_shape(cell) for cell in cells]
    for array in layouts(cells):
        assert shapes(array).to_pylist() == expected


@pytest.mark.parametrize(
    ("text", "shape"),
    [
        ("1222 °C", "9999 $a"),
        ("Zoë", "a"),
        ("2026-05-04T09:30", "9999-99-99a99:99"),
        ("x" * (LONGEST + 1), ""),
        ("", ""),
    ],
)
def test_shapes(text, shape):
    assert shapes(pa.array([text])).to_pylist() == [shape]


@given(TEXTS, st.sampled_from("./ -"))
def test_marks_are_counted_in_each_cell(cells, mark):
    filled = [cell or "" for cell in cells]
    for array in layouts(filled):
        counts = marks_per_cell(view(array), ord(mark))
        expected = [cell.count(mark) for cell in filled]
        assert counts is None if not any(expected) else counts.tolist() == expected
