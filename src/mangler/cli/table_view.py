"""Rows of a table on the screen: as many columns as fit, and the names of those that do not."""

from __future__ import annotations

from collections.abc import Sequence

from rich import box
from rich.cells import cell_len
from rich.console import Console
from rich.table import Table
from rich.text import Text

from mangler.cli.cells import visible

GAP = 2


def show_table(
    console: Console, names: Sequence[str], columns: Sequence[Sequence[str | None]], numbers: Sequence[int]
) -> None:
    """Rows with their numbers; `columns` holds the cells a column at a time."""
    if not names:
        console.print("The table has no columns.")
        return
    cells = [[visible(value) for value in column] for column in columns]
    heads = [visible(name) for name in names]
    label = "row"
    number_width = max(len(label), *(len(f"{number:,}") for number in numbers)) if numbers else len(label)
    room = console.width - number_width
    table = Table(
        box=box.SIMPLE_HEAD if console.is_terminal else None, padding=(0, GAP, 0, 0), pad_edge=False
    )
    table.add_column(label, justify="right", style="dim", no_wrap=True)
    shown = 0
    for head, column in zip(heads, cells, strict=True):
        width = max(cell_len(text.plain) for text in (head, *column))
        room -= width + GAP
        if room < 0 and shown:
            break
        numeric = all(_looks_like_number(value) for value in columns[shown])
        table.add_column(head, justify="right" if numeric else "left", no_wrap=True, overflow="ellipsis")
        shown += 1
    for index, number in enumerate(numbers):
        table.add_row(f"{number:,}", *(column[index] for column in cells[:shown]))
    console.print(table)
    left_out = names[shown:]
    if left_out:
        what = "column does" if len(left_out) == 1 else "columns do"
        listed = ", ".join(visible(name).plain for name in left_out)
        console.print(Text(f"{len(left_out)} more {what} not fit: {listed}", style="dim"), soft_wrap=True)


def _looks_like_number(value: str | None) -> bool:
    return value is None or (value != "" and value.strip().lstrip("+-").replace(".", "", 1).isdigit())
