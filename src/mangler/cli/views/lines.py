"""Lines of cells under heads, aligned: for views whose cells bear marks."""

from __future__ import annotations

from collections.abc import Sequence

from rich.cells import cell_len
from rich.console import Console
from rich.text import Text

from mangler.cli.views.cells import visible
from mangler.language.mistake import enumerate_names

GAP = "  "
INDENT = "  "
MOST_NAMED = 10
"""Columns that do not fit and are named."""
LEAST_WIDE = 20
"""Characters of a cell that stay where not all columns fit."""


def show_read_as(console: Console, words: str) -> None:
    """The read statement that a recipe for the file needs, where it was detected how the table is placed in it."""
    if words:
        told = Text.assemble(("A recipe for it needs:  ", "yellow"), words)
        console.print(told, soft_wrap=True)


def widths(heads: Sequence[str], rows: Sequence[Sequence[Text]]) -> list[int]:
    return [max(cell_len(head), *(cell_len(row[i].plain) for row in rows), 0) for i, head in enumerate(heads)]


def new_columns(names: Sequence[str]) -> str:
    """What the sign before the heads of new columns means; a few of them by name."""
    listed = enumerate_names([visible(name).plain for name in names], 4)
    return f"+ {listed}: {'a new column' if len(names) == 1 else 'new columns'}"


def _room_taken(taken: Sequence[int]) -> int:
    return len(INDENT) + sum(taken) + len(GAP) * (len(taken) - 1)


def print_fitting(
    console: Console,
    heads: Sequence[str],
    rows: Sequence[Sequence[Text]],
    right: Sequence[int],
    styles: Sequence[str],
    needed: Sequence[int],
) -> None:
    """Prints what fits the screen; the columns `needed` come first, the others are cut, or only named below."""
    wide, wanted = widths(heads, rows), set(needed)
    if _room_taken(wide) > console.width:
        rows = [
            [cell if i in wanted else _cut(cell, LEAST_WIDE) for i, cell in enumerate(row)] for row in rows
        ]
        wide = widths(heads, rows)
        if _room_taken([wide[i] for i in (0, *needed)]) > console.width:
            rows = [[_cut(cell, LEAST_WIDE) for cell in row] for row in rows]
            wide = widths(heads, rows)
    chosen = [0]
    for index in (*needed, *(i for i in range(1, len(heads)) if i not in wanted)):
        if len(chosen) == 1 or _room_taken([wide[i] for i in (*chosen, index)]) <= console.width:
            chosen.append(index)
    chosen.sort()
    print_lines(
        console,
        [heads[i] for i in chosen],
        [[row[i] for i in chosen] for row in rows],
        [chosen.index(i) for i in right if i in chosen],
        [styles[i] for i in chosen],
    )
    left_out = [head.lstrip("+− ") for i, head in enumerate(heads) if i not in chosen]
    if left_out:
        verb = "does" if len(left_out) == 1 else "do"
        message = f"{INDENT}{len(left_out)} more {verb} not fit: {enumerate_names(left_out, MOST_NAMED)}"
        console.print(Text(message, style="dim"), soft_wrap=True)


def _cut(cell: Text, width: int) -> Text:
    if cell_len(cell.plain) <= width:
        return cell
    cell = cell.copy()
    cell.truncate(width, overflow="ellipsis")
    return cell


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
