from __future__ import annotations

import pyarrow as pa
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import layouts

from mangler.blanks import BLANKS
from mangler.kernels.text.clean_list import ListWork, clean_lists
from mangler.kernels.text.delimiters import Delimiters
from mangler.kernels.text.whole import WholeMatcher

WORDS = st.sampled_from(["ash", "Ash", " ash", "none", "", " ", "celadon", "zinc\u00a0", "é"])
CELLS = st.lists(st.none() | st.lists(WORDS, max_size=6).map(";".join), max_size=8)


def cleaned(cell: str | None, work: ListWork) -> str | None:
    if cell is None:
        return None
    parts = [part.strip(BLANKS) for part in cell.split(";")] if cell.strip(BLANKS) else []
    parts = [part for part in parts if part or work.keep_empty]
    fold = str.lower if work.anycase else str
    if work.without is not None:
        unwanted = {fold(text) for text in work.without.texts}
        parts = [part for part in parts if fold(part) not in unwanted]
    if work.unique:
        seen: dict[str, str] = {}
        for part in parts:
            seen.setdefault(fold(part), part)
        parts = list(seen.values())
    if work.sorted:
        parts.sort(key=lambda part: fold(part).encode())
    if work.first:
        parts = parts[: work.first]
    return work.separator.join(parts) if parts else None


@settings(max_examples=300)
@given(
    cells=CELLS,
    without=st.booleans(),
    keep_empty=st.booleans(),
    unique=st.booleans(),
    in_order=st.booleans(),
    first=st.integers(0, 3),
    anycase=st.booleans(),
)
def test_lists_come_out_as_plain_python_makes_them(
    cells: list[str | None],
    without: bool,
    keep_empty: bool,
    unique: bool,
    in_order: bool,
    first: int,
    anycase: bool,
) -> None:
    matcher = WholeMatcher(("none", "ASH"), (), anycase) if without else None
    work = ListWork(
        Delimiters((";",), anycase=anycase), " + ", matcher, keep_empty, unique, in_order, first, anycase
    )
    for array in layouts(cells):
        assert clean_lists(array, work)[0].to_pylist() == [cleaned(cell, work) for cell in cells]


def test_a_list_of_many_parts() -> None:
    cell = ";".join(str(number % 7) for number in range(50_000))
    work = ListWork(Delimiters((";",)), ",", unique=True, sorted=True)
    assert clean_lists(pa.array([cell]), work)[0].to_pylist() == ["0,1,2,3,4,5,6"]
