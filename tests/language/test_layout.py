from __future__ import annotations

import pytest

from mangler.language.layout import format_recipe, one_line
from mangler.language.recipe import parse_recipe
from mangler.language.source import Source
from mangler.steps import VERBS


def formatted(text: str) -> str:
    return format_recipe(parse_recipe(Source("recipe", text), VERBS))


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("mangler   1   't'", "mangler 1 't'\n"),
        (
            "mangler 1\n\n\n\ntrim a ,b,  c? squeeze   left\n",
            "mangler 1\n\ntrim a, b, c? left squeeze\n",
        ),
        (
            "mangler 1\n#  off:\n#trim x\nread nulls '', \"-\" delimiter ';'\n",
            "mangler 1\n#  off:\n#trim x\nread delimiter ';' nulls '', \"-\"\n",
        ),
        (
            "mangler 1\ntrim a,\n  b  # both\n  # and squeeze\n  squeeze\n",
            "mangler 1\ntrim a, b  # both\n  # and squeeze\n  squeeze\n",
        ),
        ("mangler 1\nkeep columns a, b,\n", "mangler 1\nkeep columns a, b\n"),
    ],
)
def test_layout(text: str, expected: str) -> None:
    assert formatted(text) == expected
    assert formatted(expected) == expected


def test_wide_statements_are_wrapped_at_clauses_and_commas() -> None:
    names = ", ".join(f"column_number_{i}" for i in range(20))
    text = formatted(f"mangler 1\nread delimiter ';' called {names} skip 1 ragged stop\n")
    lines = text.splitlines()
    assert max(map(len, lines)) <= 100
    assert lines[1] == "read" and lines[2] == "  delimiter ';'"
    assert lines[3].startswith("  called column_number_0, ") and lines[4].startswith("    column_number_")
    assert lines[-2:] == ["  skip 1", "  ragged stop"]
    assert formatted(text) == text


def test_a_comment_stays_behind_its_clause_where_that_was_looked_at_ahead() -> None:
    # `map … from TEXT [NAMES]`: whether names come next is seen by looking over `anycase` and the comment.
    text = "mangler 1\nmap absent from \"\"\n  anycase  # a comment\n  where cone = '06'\n"
    assert formatted(text) == text


def test_one_line_leaves_comments_out() -> None:
    recipe = parse_recipe(Source("r", "mangler 1\ntrim a # x\n  squeeze"), VERBS)
    assert one_line(recipe.statements[1]) == "trim a squeeze"
