from __future__ import annotations

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.text import patterns as module
from mangler.kernels.text.patterns import (
    TooMuchWorkError,
    escape,
    group_count,
    looks_far,
    matches,
    matches_empty_text,
    problem_of,
    refuse_too_much_work,
)


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


@pytest.mark.parametrize(
    ("pattern", "far"),
    [
        (r"\d+", False),
        (r"\d+(\.\d+)?", False),
        (r"[a-z]+|[0-9]+", False),
        (r"\s*,\s*", False),
        (r"(?i)a|b{2,3}", False),
        (r"x{2,}y?", False),
        (r"(?P<n>x+)-", False),
        (r"a.{0,5}b|a", False),
        (r"x.*y|x", True),
        (r"x(.*y)?", True),
        (r"(?:a+b|a)", True),
        (r"(a*b)+", True),
        (r"[]x]+y|z", True),
        (r"^\s+|\s+$", True),
        (r"(?s:.*?)b|c", True),
        (r"(a{3,}b)?", True),
    ],
)
def test_which_patterns_may_look_far(pattern: str, far: bool) -> None:
    assert looks_far(pattern) is far


def test_work_on_one_cell_is_bounded_by_counting_matches(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "WORK", 10_000)
    cells = pa.array(["x" * 100, "x" * 101, None, "y" * 500])
    refuse_too_much_work(cells.slice(0, 1), "x.*y|x")
    refuse_too_much_work(cells.slice(2), "x.*y|x")
    refuse_too_much_work(cells, "x+")
    with pytest.raises(TooMuchWorkError, match="more than 99 matches in a cell of 101 bytes"):
        refuse_too_much_work(cells, "x.*y|x")
