"""The values of a query: found where they are meant, and nowhere else."""

from __future__ import annotations

import pytest

from mangler.language.placeholders import names_in, with_places


@pytest.mark.parametrize(
    ("query", "wanted"),
    [
        ("select :a, :b, :a", "select $1, $2, $1"),
        (
            "select x::text, ':no', \":no\" -- :no\nwhere y = :d",
            "select x::text, ':no', \":no\" -- :no\nwhere y = $1",
        ),
        ("select 'it''s :no' /* :no\n */, :c", "select 'it''s :no' /* :no\n */, $1"),
        ("select $$ :no $$, $t$ :no $$ $t$, :c", "select $$ :no $$, $t$ :no $$ $t$, $1"),
        (r"select E'it\'s :no', :c", r"select E'it\'s :no', $1"),
        (r"select '\', :c, '", r"select '\', $1, '"),
        ("select a[1:2]", "select a[1:2]"),
    ],
)
def test_where_values_are(query: str, wanted: str) -> None:
    assert with_places(query, lambda number: f"${number}") == wanted


def test_each_name_once() -> None:
    assert names_in("select :b, :a, :b, ':c'") == ["b", "a"]
