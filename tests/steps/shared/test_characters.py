from __future__ import annotations

import unicodedata
from typing import Any

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.blanks import BLANKS
from mangler.kernels.text.patterns import matches
from mangler.language.mistake import Refusal
from mangler.steps.shared.characters import CLASSES

CATEGORIES = {"letters": "LM", "punctuation": "P", "symbols": "S"}


def has_been_there_long(character: str) -> bool:
    """Python and RE2 may know different versions of Unicode; what 3.2 had is in both."""
    return unicodedata.ucd_3_2_0.category(character) != "Cn"


@given(st.characters(exclude_categories=["Cs", "Cn"]).filter(has_been_there_long))
def test_classes_are_those_of_unicode(character: str) -> None:
    category = unicodedata.category(character)
    expected = {name: category[0] in letters for name, letters in CATEGORIES.items()}
    expected["digits"] = category == "Nd"
    expected["spaces"] = character in BLANKS
    expected["controls"] = category in ("Cc", "Cf") and character not in BLANKS
    for name, inside in CLASSES.items():
        found = bool(matches(pa.array([character]), f"[{inside}]")[0])
        assert found == expected[name], (name, hex(ord(character)), category)


@pytest.mark.parametrize(
    ("step", "before", "after"),
    [
        ("keep characters digits in a", "1 222 °C", "1222"),
        ('keep characters letters, "]^-" in a', "a]b^c-d.e", "a]b^c-de"),
        ("drop characters controls in a", "a\u200eb\u00ad\tc", "ab\tc"),
        ("drop characters spaces in a with '\\1'", "a  \u00a0b", "a\\1b"),
        ("keep characters letters in a", "Zoe\u0301 7", "Zoe\u0301"),
    ],
)
def test_characters(clean: Any, step: str, before: str, after: str) -> None:
    assert clean(step, f'a\n"{before}"\n') == [[after]]


def test_a_cell_with_nothing_left_is_empty_and_reported(run: Any) -> None:
    result = run("keep characters digits in a", "a,b\ntbc,x\n12,\n")
    assert result.table.column("a").to_pylist() == ["", "12"]
    assert "1 cell has nothing left" in result.summary.steps[1].remarks[0]


@pytest.mark.parametrize(
    ("step", "message"),
    [
        ("keep characters lettres in a", "Nearest: letters"),
        ("drop characters '' in a", "this text has no characters"),
        ("keep characters letters, in a", "a class of characters is expected here"),
    ],
)
def test_what_is_refused(clean: Any, step: str, message: str) -> None:
    with pytest.raises(Refusal, match=message):
        clean(step, "a\nx\n")
