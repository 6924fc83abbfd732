"""Letter cases of texts, against Python's own."""

from __future__ import annotations

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.text.letter_cases import CASES, letter_cases

ASCII = st.text(st.characters(max_codepoint=0x7F), max_size=6)
ANY = st.text(st.sampled_from("aBéÉß1 -Ω"), max_size=6)


def case_of(text: str) -> str | None:
    """The first of the cases that a text is in; None for one without letters."""
    if not any(one.isalpha() for one in text):
        return None
    same = {"lower": text.lower(), "upper": text.upper(), "title": text[:1].upper() + text[1:].lower()}
    return next((case for case, changed in same.items() if changed == text), "mixed")


@given(st.lists(ASCII, max_size=9) | st.lists(ANY, max_size=9), st.integers(0, 3))
def test_each_text_with_letters_is_in_one_case(texts: list[str], skipped: int) -> None:
    found = letter_cases(pa.array(texts, pa.string()).slice(skipped))
    told = [
        next((case for case in CASES if found[case][row]), None)
        for row in range(max(0, len(texts) - skipped))
    ]
    # Arrow has no capital of ß.
    expected = ["mixed" if "ß" in text and case_of(text) else case_of(text) for text in texts[skipped:]]
    assert [
        ("mixed" if "ß" in t and c else c) for t, c in zip(texts[skipped:], told, strict=True)
    ] == expected
    assert sum(flags.sum() for flags in found.values()) == sum(case is not None for case in told)


@pytest.mark.parametrize(
    ("text", "case"),
    [
        ("kiln", "lower"),
        ("KILN", "upper"),
        ("A", "upper"),
        ("Kiln 7", "title"),
        ("7Kiln", "mixed"),
        ("7", None),
    ],
)
def test_cases(text: str, case: str | None) -> None:
    found = letter_cases(pa.array([text]))
    assert [one for one in CASES if found[one][0]] == ([case] if case else [])
