from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.cli.views.alignment import align
from mangler.cli.views.marks import marked


@pytest.mark.parametrize(
    ("first", "second", "before", "after"),
    [
        (
            "temoku; temoku; tenmoku",
            "tenmoku; tenmoku; tenmoku",
            "temoku; temoku; tenmoku",
            "te⟦n⟧moku; te⟦n⟧moku; tenmoku",
        ),
        (" clay", "clay", "⟨·⟩clay", "clay"),
        ("a\u00a0b", "a b", "a⟨⍽⟩b", "a⟦·⟧b"),
        ("good", "GOOD", "⟨good⟩", "⟦GOOD⟧"),
        ("good", "Good", "⟨g⟩ood", "⟦G⟧ood"),
        ("28/04/2026 20:30", "2026-04-28", "⟨28/04/⟩2026⟨ 20:30⟩", "2026⟦-04-28⟧"),
        ("x", None, "⟨x⟩", "⟦(null)⟧"),
        ("", "x", '⟨""⟩', "⟦x⟧"),
        (" ", "", "⟨·⟩", '⟦""⟧'),
        ("same", "same", "same", "same"),
        (None, None, "(null)", "(null)"),
    ],
)
def test_marks_without_colour(first: str | None, second: str | None, before: str, after: str) -> None:
    assert tuple(text.plain for text in marked(first, second)) == (before, after)


def test_what_is_equal_in_a_long_cell_is_cut() -> None:
    before, after = marked("a" * 500 + " b " + "c" * 500, "a" * 500 + " x " + "c" * 500)
    assert "⟨b⟩" in before.plain and "⟦x⟧" in after.plain and len(before.plain) < 60
    one, other = marked("x" * 100_000 + "1", "y" * 100_000 + "2")
    assert len(one.plain) < 200 and len(other.plain) < 200


TEXTS = st.text(st.sampled_from("ab ;\t\u00a0é"), max_size=30)


@given(TEXTS, TEXTS)
def test_stretches_cover_both_texts(first: str, second: str) -> None:
    a = b = 0
    for start, end, other_start, other_end, equal in align(first, second):
        assert (start, other_start) == (a, b)
        assert (first[start:end] == second[other_start:other_end]) >= equal
        a, b = end, other_end
    assert (a, b) == (len(first), len(second))
