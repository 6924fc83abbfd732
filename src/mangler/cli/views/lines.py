"""Lines of cells under heads, aligned: for views whose cells bear marks."""

from __future__ import annotations

from collections.abc import Sequence

from rich.cells import cell_len
from rich.console import Console
from rich.text import Text

GAP = "  "
INDENT = "  "


def show_read_as(console: Console, words: str) -> None:
    """The read statement that a recipe for the file needs, where it was detected how the table is placed in it."""
    if words:
        told = Text.assemble(("A recipe for it needs:  ", "yellow"), words)
        console.print(told, soft_wrap=True)


def widths(heads: Sequence[str], rows: Sequence[Sequence[Text]]) -> list[int]:
    return [max(cell_len(head), *(cell_len(row[i].plain) for row in rows), 0) for i, head in enumerate(heads)]


def fitting(screen: int, heads: Sequence[str], rows: Sequence[Sequence[Text]]) -> int:
    room = screen - len(INDENT)
    for index, width in enumerate(widths(heads, rows)):
        room -= width + (len(GAP) if index else 0)
        if room < 0 and index > 1:
            return index
    return len(heads)


def print_lines(
    console: Console,
    heads: Sequence[str],
    rows: Sequence[Sequence[Text]],
    right: Sequence[int],
    styles: Sequence[str] = (),
) -> None:
    wide = widths(heads, rows)
    top = [Text(head, style=styles[i] or "bold" if styles else "bold") for i, head in enumerate(heads)]
    for cells in (top, *rows):
        line = Text(INDENT)
        for index, (cell, width) in enumerate(zip(cells, wide, strict=True)):
            space = " " * (width - cell_len(cell.plain))
            line.append(GAP if index else "")
            if index in right:
                line.append(space)
            line.append_text(cell)
            if index not in right:
                line.append(space)
        line.rstrip()
        console.print(line, soft_wrap=True)
