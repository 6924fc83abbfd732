from __future__ import annotations

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.patterns import escape, group_count, matches, matches_empty_text, problem_of


@given(st.text(max_size=6), st.text(max_size=6))
def test_an_escaped_text_matches_itself_and_nothing_else(text: str, other: str) -> None:
    hits = matches(pa.array([text, other]), f"\\A{escape(text)}\\z")
    assert hits.tolist() == [True, text == other]


@pytest.mark.parametrize(
    ("pattern", "count"),
    [
        ("a", 0),
        ("(a)(b(c))", 3),
        ("(?:a)(?i)b", 0),
        ("(?P<x>a)", 1),
        (r"\(a[(]", 0),
        ("[](](x)", 1),
        ("[^](](x)", 1),
        ("[[:alpha:](](x)", 1),
        (r"[\](](x)", 1),
    ],
)
def test_groups_are_counted(pattern: str, count: int) -> None:
    assert group_count(pattern) == count


@pytest.mark.parametrize(
    ("pattern", "empty"), [("a*", True), ("", True), (r"\b", True), ("$", True), ("a+", False)]
)
def test_patterns_that_match_nothing_at_all(pattern: str, empty: bool) -> None:
    assert matches_empty_text(pattern) is empty


def test_re2_says_what_it_has_against_a_pattern() -> None:
    assert problem_of("a+") == ""
    assert "missing )" in problem_of("(a")


@pytest.mark.parametrize("pattern", ["a)(b", "a)|(b", "(a))(b"])
def test_brackets_that_close_before_they_open_are_a_problem(pattern: str) -> None:
    assert "unexpected )" in problem_of(pattern)


@pytest.mark.parametrize("pattern", [r"a\)", "[)]", "(a)(b)", "[[:alpha:])]"])
def test_brackets_that_mean_themselves_are_no_problem(pattern: str) -> None:
    assert problem_of(pattern) == ""
