"""The nearest key, against a comparison with every key."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.keys.near import NearIndex, edits_between, near_form

WORDS = st.text("abé A", max_size=7)


def distance(one: str, other: str) -> int:
    """Levenshtein's, by its definition."""
    rows = list(range(len(other) + 1))
    for at, letter in enumerate(one, 1):
        rows = _next(rows, at, letter, other)
    return rows[-1]


def _next(rows: list[int], at: int, letter: str, other: str) -> list[int]:
    out = [at]
    for column, its in enumerate(other, 1):
        out.append(min(rows[column] + 1, out[-1] + 1, rows[column - 1] + (letter != its)))
    return out


@given(WORDS, WORDS, st.integers(0, 4))
def test_edits_are_counted_up_to_a_bound(one: str, other: str, most: int) -> None:
    assert edits_between(one, other, most) == min(distance(one, other), most + 1)


@given(
    st.lists(st.tuples(st.none() | WORDS, st.integers(0, 1)), max_size=12),
    WORDS,
    st.integers(0, 1),
    st.integers(1, 3),
)
def test_the_index_finds_what_a_comparison_with_all_keys_finds(
    keys: list[tuple[str | None, int]], text: str, group: int, edits: int
) -> None:
    index = NearIndex([key for key, _ in keys], [own for _, own in keys], edits)
    far = {
        number: distance(near_form(text), near_form(key))
        for number, (key, own) in enumerate(keys)
        if key is not None and own == group
    }
    least = min(far.values(), default=edits + 1)
    nearest = [number for number, one in far.items() if one == least]
    wanted = nearest[0] if least <= edits and len(nearest) == 1 else None
    assert index.nearest(text, group) == wanted


def test_what_is_too_long_is_near_to_nothing() -> None:
    index = NearIndex(["a" * 300, "b"], [None, None], 3)
    assert index.nearest("a" * 300, None) is None and index.nearest("b" * 201, None) is None


def test_among_thousands_of_keys_that_are_all_alike_none_is_taken() -> None:
    """So that a value costs no more than so many comparisons, however many keys there are."""
    keys = [f"{number:04d}" for number in range(5000)]
    assert NearIndex(keys, [None] * 5000, 3).nearest("99x9", None) is None
    assert NearIndex([*keys[:9], "kiln 99"], [None] * 10, 3).nearest("kiln 9x", None) == 9
