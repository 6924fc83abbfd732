from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.language.mistake import Refusal
from mangler.language.source import Source
from mangler.language.tables import read_small_table, spell_small_table


def test_cells_of_a_small_table() -> None:
    table = read_small_table(Source("t", 'a | b|c\n x |  | "" \n\nnull|" y\\n"| "a|b"\n'))
    assert table.names == ("a", "b", "c")
    assert table.rows == (("x", None, ""), (None, " y\n", "a|b"))


@pytest.mark.parametrize("text", ["a|b\n1\n", 'a\n"x" y\n', 'a\n"x\n'])
def test_tables_that_are_none(text: str) -> None:
    with pytest.raises(Refusal):
        read_small_table(Source("t", text))


CELLS = st.none() | st.text(
    st.characters(exclude_categories=["Cs"], exclude_characters="\0"), max_size=6
).map(lambda t: t.replace("\r", ""))


@given(st.lists(st.tuples(CELLS, CELLS), max_size=5))
def test_spelled_tables_are_read_back(rows: list[tuple[str | None, str | None]]) -> None:
    lines = spell_small_table(["a", "b"], rows)
    assert read_small_table(Source("t", "\n".join(lines))).rows == tuple(rows)
