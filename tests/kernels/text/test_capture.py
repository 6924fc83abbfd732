from __future__ import annotations

import re

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import layouts

from mangler.kernels.text.capture import capture, group_names

PATTERNS = [
    r"(a+)(b)?",
    r"(?:a|(b))(c)?",
    r"(?i)(A)(é?)",
    r"([^a])",
    r"(\()|([\[(])",
    r"(x)(y)(z)?",
    r"((a)b)",
]


@pytest.mark.parametrize("pattern", PATTERNS)
@settings(max_examples=80)
@given(
    cells=st.lists(
        st.none() | st.text(st.sampled_from([*"abcAxyz([", "é", "😀", "\n"]), max_size=6), max_size=6
    )
)
def test_groups_are_those_of_plain_python(pattern: str, cells: list[str | None]) -> None:
    found = [None if cell is None else re.search(pattern, cell) for cell in cells]
    for array in layouts(cells):
        out = capture(array, pattern)
        assert out.unmatched.tolist() == [
            cell is not None and match is None for cell, match in zip(cells, found, strict=True)
        ]
        for number, column in enumerate(out.groups, 1):
            assert column.to_pylist() == [match and match.group(number) for match in found]


def test_names_of_groups() -> None:
    assert group_names(r"(a)(?:b)(?<one>c)(?P<two>d)[(](\()") == ("", "one", "two", "")
    assert group_names(r"[]()](x)") == ("",)
    assert capture(pa.array(["ab"]), r"(?<a>a)(?P<b>b)").groups[1].to_pylist() == ["b"]
