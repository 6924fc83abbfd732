"""Shapes and measures of cells, against the NumPy kernels."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pyarrow as pa
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import CELLS, layouts
from tests.kernels.compiled.twins import built, by_numpy

from mangler.kernels.keys.keys import cell_hashes
from mangler.kernels.text.letter_cases import letter_cases
from mangler.kernels.text.measures import Measures, measure
from mangler.kernels.text.openings import opened_by
from mangler.kernels.text.shapes import shapes, shapes_met

LOOKED_AT = st.lists(
    st.one_of(
        CELLS,
        st.text(st.sampled_from(";,|/a9é°€- "), max_size=9),
        st.sampled_from(["x" * 48, "9" * 49, ";" * 9]),
    ),
    max_size=25,
)


@built
@settings(max_examples=500)
@given(LOOKED_AT)
def test_shapes_are_those_of_numpy(cells: list[str | None]) -> None:
    for column in layouts(cells):
        found = shapes(column)
        found.validate(full=True)
        with by_numpy():
            assert found.to_pylist() == shapes(column).to_pylist()


@settings(max_examples=500)
@given(LOOKED_AT)
def test_shapes_that_are_met(cells: list[str | None]) -> None:
    for column in layouts([cell for cell in cells if cell is not None]):
        met, codes = shapes_met(column)
        assert [met[code] for code in codes.tolist()] == shapes(column).to_pylist()
        assert met == list(dict.fromkeys(shapes(column).to_pylist()))


def test_more_shapes_than_are_told_apart_at_first() -> None:
    column = pa.array([f"{number % 4000:b}".replace("0", "a-") for number in range(9000)])
    met, codes = shapes_met(column)
    assert len(met) > 2048
    assert [met[code] for code in codes.tolist()] == shapes(column).to_pylist()


@built
@settings(max_examples=500)
@given(LOOKED_AT, st.integers(2, 8))
def test_measures_are_those_of_numpy(cells: list[str | None], most: int) -> None:
    for column in layouts(cells):
        found = measure(column, (";", ",", "|", "/"), most)
        with by_numpy():
            assert found == measure(column, (";", ",", "|", "/"), most)


@built
@settings(max_examples=300)
@given(LOOKED_AT, st.binary(min_size=1, max_size=4))
def test_cells_opened_by_a_byte_are_those_of_numpy(cells: list[str | None], bytes_meant: bytes) -> None:
    table = np.zeros(256, np.bool_)
    table[[*bytes_meant, ord(";")]] = True
    for column in layouts(cells):
        found = opened_by(column, table)
        with by_numpy():
            assert found.tolist() == opened_by(column, table).tolist()


@built
@settings(max_examples=300)
@given(st.lists(st.text(st.sampled_from("aZzA@[`{1 é"), max_size=5), max_size=12))
def test_letter_cases_are_those_of_numpy(cells: list[str]) -> None:
    for column in layouts([*cells]):
        found = letter_cases(column)
        with by_numpy():
            expected = letter_cases(column)
        assert {case: flags.tolist() for case, flags in found.items()} == {
            case: flags.tolist() for case, flags in expected.items()
        }


@built
@settings(max_examples=300)
@given(LOOKED_AT, st.lists(st.integers(0, 90), max_size=4), st.integers(0, 9))
def test_hashes_of_cells_are_those_of_numpy(cells: list[str | None], lengths: list[int], level: int) -> None:
    """Also of cells longer than what is hashed of them: they decide which file of parts a row goes to."""
    for column in layouts([*cells, *("7x" * length for length in lengths)]):
        found = cell_hashes(column, level)
        with by_numpy():
            assert found.tolist() == cell_hashes(column, level).tolist()


@built
def test_more_marks_than_a_counter_holds() -> None:
    """Marks of long cells are counted in stretches."""
    column = pa.array([";" * 9000 + "é" * 5000, "a"])
    assert measure(column, (";", ","), 20_000) == Measures((1, 14_000), 0, 0, {";": Counter({9001: 1})})


@built
@settings(max_examples=300)
@given(st.lists(st.text(st.sampled_from(";,|/aé "), min_size=14, max_size=40), max_size=6))
def test_cells_that_are_longer_than_a_step(cells: list[str]) -> None:
    """Sixteen bytes are looked at together; the last cell has none behind it that may be read."""
    for column in layouts(list(cells)):
        found = measure(column, (";", ",", "|"), 9)
        with by_numpy():
            assert found == measure(column, (";", ",", "|"), 9)
