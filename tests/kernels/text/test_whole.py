from __future__ import annotations

import re

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.kernels.arrays import COLUMNS, layouts

from mangler.blanks import BLANKS
from mangler.kernels.text.patterns import SAMPLE
from mangler.kernels.text.whole import WholeMatcher, match_whole

TEXTS = st.lists(st.sampled_from(["-", "", "a", "A", "n/a", "é", "É", "b;", "ab"]), max_size=4, unique=True)


@given(COLUMNS, TEXTS, st.booleans(), st.booleans())
def test_matching_whole_cells_as_plain_python_does(
    cells: list[str | None], texts: list[str], anycase: bool, with_pattern: bool
) -> None:
    patterns = ("[ab]+-?",) if with_pattern else ()

    def code(cell: str | None) -> int:
        if cell is None:
            return -1
        bare = cell.strip(BLANKS)
        for number, text in enumerate(texts):
            if re.fullmatch(re.escape(text), bare, re.IGNORECASE if anycase else 0):
                return number
        return len(texts) if patterns and re.fullmatch(patterns[0], bare) else -1

    for array in layouts(cells):
        assert match_whole(array, WholeMatcher(tuple(texts), patterns, anycase)).codes.tolist() == [
            *map(code, cells)
        ]


def test_near_misses() -> None:
    array = pa.array(["N/A", "n / a", "n/a", " n/a ", "na", None, "", "not a"])
    match = match_whole(array, WholeMatcher(("n/a",)))
    assert match.codes.tolist() == [-1, -1, 0, 0, -1, -1, -1, -1]
    assert match.by_case.tolist() == [True] + [False] * 7
    assert match.by_space.tolist() == [False, True] + [False] * 6


@pytest.mark.parametrize("values", [3, 100_000])
def test_many_rows_with_few_and_with_many_values(values: int) -> None:
    cells = [f"{index % values}" for index in range(3 * SAMPLE)]
    codes = match_whole(pa.array(cells), WholeMatcher(("2",), ("1\\d*",))).codes
    assert codes.tolist() == [0 if c == "2" else 1 if c.startswith("1") else -1 for c in cells]


def test_letters_that_fold_to_ascii_are_found() -> None:
    array = pa.array(["\u212a", "k", "K", "ſ", "s"])
    assert match_whole(array, WholeMatcher(("k", "S"), (), True)).codes.tolist() == [0, 0, 0, 1, 1]
