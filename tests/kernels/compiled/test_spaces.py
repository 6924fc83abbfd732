"""White space off and out of cells, and words for null, against the NumPy kernels."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import COLUMNS, layouts
from tests.kernels.compiled.twins import built, by_numpy

from mangler.blanks import BLANKS
from mangler.kernels.text.white_space import squeeze, trim
from mangler.kernels.text.whole import whole_words

SIDES = st.tuples(st.booleans(), st.booleans())
WORDS = st.lists(st.sampled_from(["", "n/a", "-", "é", "no data", "n"]), max_size=4, unique=True)
AROUND = st.text(st.sampled_from([*BLANKS, "x"]), max_size=2)
WORD_CELLS = st.lists(
    st.one_of(
        st.none(),
        st.tuples(AROUND, st.sampled_from(["", "n/a", "N/A", "-", "é", "no data"]), AROUND).map("".join),
    ),
    max_size=20,
)


@built
@settings(max_examples=800)
@given(COLUMNS, SIDES, st.booleans(), st.booleans())
def test_cells_are_cleaned_as_by_numpy(
    cells: list[str | None], sides: tuple[bool, bool], squeezes: bool, lines: bool
) -> None:
    for column in layouts(cells):
        found = squeeze(column, *sides, lines) if squeezes else trim(column, *sides)
        found.array.validate(full=True)
        with by_numpy():
            wanted = squeeze(column, *sides, lines) if squeezes else trim(column, *sides)
        assert found.array.to_pylist() == wanted.array.to_pylist()
        assert (found.changed, found.emptied) == (wanted.changed, wanted.emptied)
        assert (found.array is column) == (not found.changed)


@built
@settings(max_examples=500)
@given(WORD_CELLS, WORDS)
def test_words_are_found_as_by_numpy(cells: list[str | None], words: list[str]) -> None:
    for column in layouts(cells):
        found = whole_words(column, tuple(words))
        with by_numpy():
            wanted = whole_words(column, tuple(words))
        assert (None if found is None else found.tolist()) == (None if wanted is None else wanted.tolist())
