from __future__ import annotations

import io

import pytest
from rich.cells import cell_len
from rich.console import Console

from mangler.cli.views.cells import LONGEST_CELL, visible
from mangler.cli.views.table_view import show_table
from mangler.table.schema import Column


@pytest.mark.parametrize(
    ("value", "shown"),
    [
        (None, "(null)"),
        ("", '""'),
        ("two words", "two words"),
        (" a  b ", "·a··b·"),
        ("a\tb\nc\u00a0d", "a→b↵c⍽d"),
        ("a\u2009b\u200b", "a‹2009›b‹200B›"),
        ("a\x07", "a‹0007›"),
        ("  ", "··"),
    ],
)
def test_white_space_that_matters_is_visible(value: str | None, shown: str) -> None:
    assert visible(value).plain == shown


@pytest.mark.parametrize("value", ["x" * 100, "start" + " y" * 5_000_000 + "end", "窯" * 60])
def test_long_cells_are_cut_in_the_middle(value: str) -> None:
    text = visible(value).plain
    assert cell_len(text) <= LONGEST_CELL and "…" in text
    assert text[0] == value[0] and text[-1] == value[-1]


def test_columns_that_do_not_fit_are_named() -> None:
    out = io.StringIO()
    console = Console(file=out, width=40, highlight=False)
    names = ["kiln", "a long column name", "another long name", "cone"]
    show_table(console, [Column(name) for name in names], [["007"], ["x"], ["y"], ["06"]], [1])
    assert "2 more columns do not fit: another long name, cone" in out.getvalue()
    assert max(len(line) for line in out.getvalue().splitlines()[:-1]) <= 40
