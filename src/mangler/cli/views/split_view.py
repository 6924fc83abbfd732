"""Cells that were split: each with its delimiters marked, and its parts beside it."""

from __future__ import annotations

from rich.console import Console
from rich.text import Text

from mangler.cli.views.cells import visible
from mangler.cli.views.lines import INDENT, new_columns, print_fitting
from mangler.cli.views.marks import LEFT, LEFT_STYLE, RIGHT_STYLE, marked_at
from mangler.engine.trial.split_preview import SplitCell, SplitPreview

MOST_LINES = 16
MOST_ROWS = 6
"""Rows made from one cell that are shown."""
MOST_DELIMITERS = 10
LONGEST_PART = 24


def show_cuts(console: Console, split_preview: SplitPreview) -> None:
    """One line per cell, or, of a split into rows, one line per row; some cells of every number of parts."""
    cells = _spread(split_preview.cells)
    heads = [
        " row",
        split_preview.column,
        *(f"+ {visible(name).plain}" for name in split_preview.names),
        "cells",
    ]
    if split_preview.names[0] == split_preview.column:
        heads[2] = "becomes"
    shown: list[SplitCell] = []
    room = MOST_LINES
    for cut in cells:
        room -= min(max(len(cut.parts), 1), MOST_ROWS + 1)
        if shown and room < 0:
            break
        shown.append(cut)
    shown.sort(key=lambda cut: cut.row)
    lines = [line for cut in shown for line in _lines(cut, split_preview.names)]
    styles = ["bold", "bold", *([RIGHT_STYLE] * len(split_preview.names)), "bold"]
    print_fitting(console, heads, lines, (0, len(heads) - 1), styles, range(2, 2 + len(split_preview.names)))
    others = len(cells) - len(shown) + split_preview.others
    if others:
        message = f"{INDENT}and {others:,} other {'cell' if others == 1 else 'different cells'}"
        console.print(Text(message, style="dim"))
    legend = f"; {new_columns(split_preview.names)}" if heads[2].startswith("+") else ""
    console.print(
        Text.assemble(INDENT, (f"{LEFT[0]} {LEFT[1]}", LEFT_STYLE), (f" a delimiter{legend}", "dim")),
        soft_wrap=True,
    )


def _lines(cut: SplitCell, names: list[str]) -> list[list[Text]]:
    first = [Text(f"{cut.row:,}"), marked_at(cut.cell, cut.delimiters, MOST_DELIMITERS)]
    times = Text(f"{cut.times:,}")
    if not cut.parts:
        count = "1 part" if cut.count == 1 else f"{cut.count:,} parts"
        failed = [Text(f"✗ {count}", style=LEFT_STYLE), *(Text() for _ in names[1:])]
        return [[*first, *failed, times]]
    lines = []
    for number, part in enumerate(cut.parts[:MOST_ROWS]):
        values = [visible(part[name], LONGEST_PART) for name in names]
        lines.append([*first, *values, times] if number == 0 else [Text(), Text(), *values, Text()])
    if len(cut.parts) > MOST_ROWS:
        message = Text(f"and {len(cut.parts) - MOST_ROWS:,} more", style="dim")
        lines.append([Text(), Text(), message, *(Text() for _ in names[1:]), Text()])
    return lines


def _spread(cells: list[SplitCell]) -> list[SplitCell]:
    """In turn one of every kind: of each number of delimiters, and of the cells that fail; the kinds as they come."""
    ranks: dict[tuple[int, bool], int] = {}
    ranked = []
    for number, cut in enumerate(cells):
        kind = (len(cut.delimiters), bool(cut.reason))
        ranked.append((ranks.setdefault(kind, 0), number))
        ranks[kind] += 1
    return [cells[number] for _, number in sorted(ranked)]
