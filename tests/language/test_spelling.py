"""Spelled texts are read back the same."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from mangler.language.cursor import Cursor
from mangler.language.literals import read_text
from mangler.language.source import Source
from mangler.language.spelling import spell_text


@given(st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0")))
def test_a_spelled_text_is_read_back_the_same(text):
    spelled = spell_text(text)
    source = Source("recipe", spelled)
    assert read_text(Cursor(source, 0, len(spelled))).value == text
    assert spelled.isprintable()
