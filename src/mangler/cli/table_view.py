"""Rows of a table on the screen: as many columns as fit, and the names of those that do not."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from rich import box
from rich.cells import cell_len
from rich.console import Console
from rich.table import Table
from rich.text import Text

from mangler.cli.cells import LONGEST_CELL, visible
from mangler.formats.delimited.parse import UnfitRow
from mangler.table.schema import FAMILIES, Column

GAP = 2
CELL_LENGTHS = (100, 60, LONGEST_CELL, 32, 24)
"""How long cells may be: the first of these with which all columns fit, else the last."""
ROW_LABEL = "row"
MOST_UNFIT = 5


def show_table(
    console: Console, columns: Sequence[Column], cells: Sequence[Sequence[Any]], numbers: Sequence[int]
) -> None:
    """Rows with their numbers; `cells` a column at a time."""
    if not columns:
        console.print("The table has no columns.")
        return
    number_width = max(len(ROW_LABEL), *(len(f"{number:,}") for number in numbers), 0)
    room = console.width - number_width
    for longest in CELL_LENGTHS:
        texts = [[visible(value, longest) for value in column] for column in cells]
        heads = [_head(column, longest) for column in columns]
        widths = [
            max(cell_len(line) for text in (head, *column) for line in text.plain.split("\n"))
            for head, column in zip(heads, texts, strict=True)
        ]
        if sum(widths) + GAP * len(widths) <= room:
            break
    shown = _fitting(widths, room)
    table = Table(
        box=box.SIMPLE_HEAD if console.is_terminal else None,
        show_edge=False,
        padding=(0, GAP, 0, 0),
        pad_edge=False,
    )
    table.add_column(f"{ROW_LABEL}\n", justify="right", style="dim", no_wrap=True)
    for head, column, values in zip(heads[:shown], columns, cells, strict=False):
        numeric = column.type in FAMILIES["numeric"] or _look_like_numbers(values)
        table.add_column(head, justify="right" if numeric else "left", no_wrap=True, overflow="ellipsis")
    for index, number in enumerate(numbers):
        table.add_row(f"{number:,}", *(column[index] for column in texts[:shown]))
    console.print(table)
    left_out = [visible(column.name).plain for column in columns[shown:]]
    if left_out:
        what = "column does" if len(left_out) == 1 else "columns do"
        told = f"{len(left_out)} more {what} not fit: {', '.join(left_out)}"
        console.print(Text(told, style="dim"), soft_wrap=True)


def show_unfit(console: Console, rows: Sequence[UnfitRow]) -> None:
    """Rows of an extract that stand in no table, the first few of them."""
    for row in rows[:MOST_UNFIT]:
        told = f"! row {row.row:,} has no place in the table: {row.reason}"
        console.print(Text(told, style="yellow"), soft_wrap=True)
    if len(rows) > MOST_UNFIT:
        console.print(Text(f"  and {len(rows) - MOST_UNFIT:,} more", style="yellow"))


def _head(column: Column, longest: int) -> Text:
    """The name, and under it the type."""
    text = visible(column.name, longest)
    text.stylize("bold")
    text.append(f"\n{column.type}", style="not bold dim")
    return text


def _fitting(widths: Sequence[int], room: int) -> int:
    """How many columns fit from the left; at least one is shown, cut if need be."""
    for shown, width in enumerate(widths):
        room -= width + GAP
        if room < 0 and shown:
            return shown
    return len(widths)


def _look_like_numbers(values: Sequence[Any]) -> bool:
    texts = [value for value in values if value is not None]
    return bool(texts) and all(isinstance(value, str) and _looks_like_number(value) for value in texts)


def _looks_like_number(value: str) -> bool:
    return value.strip().lstrip("+-").replace(".", "", 1).isdigit()
