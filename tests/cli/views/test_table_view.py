"""Tables on the screen: page by page, and only as many columns looked at as fit."""

from __future__ import annotations

import io
from typing import Any
from unittest import mock

from rich.console import Console

from mangler.cli.views import table_view
from mangler.cli.views.table_view import PAGE, show_table
from mangler.table.schema import Column, ValueType


def shown(columns: list[Column], cells: list[list[Any]], width: int = 80) -> str:
    out = io.StringIO()
    show_table(Console(file=out, width=width), columns, cells, list(range(1, len(cells[0]) + 1)))
    return out.getvalue()


def test_every_page_has_its_head() -> None:
    rows = 2 * PAGE + 1
    text = shown([Column("kiln"), Column("made", ValueType.INTEGER)], [["007"] * rows, ["1222"] * rows])
    lines = text.splitlines()
    assert [line for line in lines if "kiln" in line] == ["  row  kiln     made"] * 3
    assert lines[2] == "    1   007     1222" and lines[-1] == "1,001   007     1222"
    assert len(lines) == rows + 3 * 2 + 2


def test_of_many_columns_only_those_that_fit_are_looked_at() -> None:
    columns = [Column(f"column_{number}") for number in range(50_000)]
    with mock.patch.object(table_view, "_width", wraps=table_view._width) as measured:
        text = shown(columns, [["x"]] * 50_000)
    assert measured.call_count < 30
    assert "49,993 more columns do not fit: column_7, column_8" in text and "and 49,983 more" in text


def test_white_space_and_wide_characters_keep_the_columns_in_line() -> None:
    lines = shown(
        [Column("a"), Column("b")], [[" x", "陶芸", None, "plain"], ["one", "two", "", "x"]]
    ).splitlines()
    assert lines[2:] == ["  1  ·x      one", "  2  陶芸    two", '  3  (null)  ""', "  4  plain   x"]
