"""Rows of a table on the screen: as many columns as fit, and the names of the rest."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from rich.cells import cell_len
from rich.console import Console
from rich.text import Text

from mangler.cli.views.cells import LONGEST_CELL, visible
from mangler.formats.contract import UnfitRow
from mangler.table.schema import FAMILIES, Column
from mangler.table.select import quote_name

GAP = 2
CELL_LENGTHS = (100, 60, LONGEST_CELL, 32, 24)
"""How long cells may be: the first of these with which all columns fit, else the last."""
ROW_LABEL = "row"
MOST_UNFIT = 5
MOST_LISTED = 10
"""Names of columns that do not fit, as they are listed."""
PAGE = 500
"""Rows under one head; the columns of a page are as wide as its cells."""


def show_table(
    console: Console,
    columns: Sequence[Column],
    cells: Sequence[Sequence[Any]],
    numbers: Sequence[int],
    way: str = "",
) -> None:
    """Rows with their numbers, a page after the other; `cells` a column at a time.

    `way` is how the columns are seen that do not fit, with a place for the name of the first of them.
    """
    if not columns:
        console.print("The table has no columns.")
        return
    number_width = max(len(ROW_LABEL), len(f"{max(numbers, default=0):,}"))
    shown = _how_many_fit(console.width - number_width, columns, [column[:PAGE] for column in cells])
    for start in range(0, max(1, len(numbers)), PAGE):
        if start:
            console.print()
        page = [column[start : start + PAGE] for column in cells[:shown]]
        _show_page(console, columns[:shown], page, numbers[start : start + PAGE], number_width)
    left_out = [visible(column.name).plain for column in columns[shown : shown + MOST_LISTED + 2]]
    if left_out:
        count = len(columns) - shown
        what = "column does" if count == 1 else "columns do"
        names = ", ".join(left_out[:MOST_LISTED]) + f" and {count - MOST_LISTED:,} more" * (
            count > MOST_LISTED
        )
        told = f"{count:,} more {what} not fit: {names}"
        if way:
            told += "; " + way.format(quote_name(columns[shown].name))
        console.print(Text(told, style="dim"), soft_wrap=True)


def _how_many_fit(room: int, columns: Sequence[Column], cells: Sequence[Sequence[Any]]) -> int:
    """How many columns fit from the left, cells cut as far as they may be; at least one is shown."""
    if room // max(1, len(columns)) >= 1 + GAP:
        for longest in CELL_LENGTHS[:-1]:
            if _fitting(room, longest, columns, cells) == len(columns):
                return len(columns)
    return _fitting(room, CELL_LENGTHS[-1], columns, cells)


def _fitting(room: int, longest: int, columns: Sequence[Column], cells: Sequence[Sequence[Any]]) -> int:
    for shown, (column, values) in enumerate(zip(columns, cells, strict=True)):
        room -= _width(_head(column, longest), [visible(value, longest) for value in values]) + GAP
        if room < 0 and shown:
            return shown
    return len(columns)


def _width(head: tuple[Text, Text], cells: Sequence[Text]) -> int:
    return max(cell_len(text.plain) for text in (*head, *cells))


def _show_page(
    console: Console,
    columns: Sequence[Column],
    cells: Sequence[Sequence[Any]],
    numbers: Sequence[int],
    number_width: int,
) -> None:
    """Rows under one head, each a line."""
    room = console.width - number_width
    for longest in CELL_LENGTHS:
        texts = [[visible(value, longest) for value in column] for column in cells]
        heads = [_head(column, longest) for column in columns]
        widths = [_width(head, column) for head, column in zip(heads, texts, strict=True)]
        if sum(widths) + GAP * len(widths) <= room:
            break
    if len(widths) == 1:
        widths = [min(widths[0], max(1, room - GAP))]
    right = [
        column.type in FAMILIES["numeric"] or _look_like_numbers(values)
        for column, values in zip(columns, cells, strict=True)
    ]
    gap = " " * GAP
    for line, label in enumerate((ROW_LABEL, "")):
        text = Text.assemble((label.rjust(number_width), "dim"))
        for head, width, numeric in zip(heads, widths, right, strict=True):
            text.append(gap).append_text(_padded(head[line], width, numeric))
        text.rstrip()
        console.print(text, soft_wrap=True)
    if console.is_terminal:
        console.print(Text("─" * (number_width + sum(widths) + GAP * len(widths)), style="dim"))
    if not console.is_terminal:  # nothing is styled: a line is a text, and soon made
        console.file.write(_plain_lines(texts, numbers, widths, right, number_width))
        return
    for index, number in enumerate(numbers):
        text = Text.assemble((f"{number:,}".rjust(number_width), "dim"))
        for column, width, numeric in zip(texts, widths, right, strict=True):
            text.append(gap).append_text(_padded(column[index], width, numeric))
        text.rstrip()
        console.print(text, soft_wrap=True)


def _plain_lines(
    texts: Sequence[Sequence[Text]],
    numbers: Sequence[int],
    widths: Sequence[int],
    right: Sequence[bool],
    number_width: int,
) -> str:
    columns = [[f"{number:,}".rjust(number_width) for number in numbers]]
    for column, width, numeric in zip(texts, widths, right, strict=True):
        cells = []
        for text in column:
            cell = text.plain
            if cell.isascii() and len(cell) <= width:
                cells.append(cell.rjust(width) if numeric else cell.ljust(width))
            else:
                cells.append(_padded(text, width, numeric).plain)
        columns.append(cells)
    gap = " " * GAP
    return "".join(gap.join(line).rstrip() + "\n" for line in zip(*columns, strict=True))


def _padded(text: Text, width: int, right: bool) -> Text:
    text = text.copy()
    missing = width - cell_len(text.plain)
    if missing < 0:
        text.truncate(width, overflow="ellipsis")
    elif right:
        text.pad_left(missing)
    else:
        text.pad_right(missing)
    return text


def show_unfit(console: Console, rows: Sequence[UnfitRow]) -> None:
    """Rows of an extract that are in no table, the first few of them."""
    for row in rows[:MOST_UNFIT]:
        message = f"! row {row.row:,} does not fit in the table: {row.reason}"
        console.print(Text(message, style="yellow"), soft_wrap=True)
    if len(rows) > MOST_UNFIT:
        console.print(Text(f"  and {len(rows) - MOST_UNFIT:,} more", style="yellow"))


def _head(column: Column, longest: int) -> tuple[Text, Text]:
    """The name, and the type that goes under it."""
    name = visible(column.name, longest)
    name.stylize("bold")
    return name, Text(str(column.type), style="dim")


def _look_like_numbers(values: Sequence[Any]) -> bool:
    texts = [value for value in values if value is not None]
    return bool(texts) and all(isinstance(value, str) and _looks_like_number(value) for value in texts)


def _looks_like_number(value: str) -> bool:
    return value.strip().lstrip("+-").replace(".", "", 1).isdigit()
