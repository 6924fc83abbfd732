"""The summary of a run: one line per step, what is worth a second look, and the balance of rows."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence

from rich.cells import cell_len, set_cell_size
from rich.console import Console
from rich.text import Text

from mangler.engine.run.summary import StepLine, Summary, row_and_line

HEADS: tuple[str, ...] = ("line", "step", "rows in", "rows out", "changed", "nulls made", "filled", "time")
LEAST_STEP = 24


def show_summary(console: Console, summary: Summary) -> None:
    _show_title(console, summary)
    found = ", ".join(f"{what} {found}" for what, found in summary.detected.items())
    console.print(Text(f"  detected: {found}", style="dim"), soft_wrap=True)
    console.print()
    heads, rows = HEADS, [_row(step) for step in summary.steps]
    widths = _widths(console.width, heads, rows)
    if widths[1] < min(
        LEAST_STEP, max(cell_len(row[1]) for row in rows)
    ):  # a narrow screen does without the times
        heads, rows = HEADS[:-1], [row[:-1] for row in rows]
        widths = _widths(console.width, heads, rows)
    console.print(Text(_line(heads, widths), style="dim"), soft_wrap=True)
    for step, row in zip(summary.steps, rows, strict=True):
        console.print(Text(_line(row, widths)), soft_wrap=True)
        _show_told(console, step, widths[0])
    console.print()
    _show_ending(console, summary)


def _widths(screen: int, heads: tuple[str, ...], rows: list[tuple[str, ...]]) -> list[int]:
    """Columns as wide as what is in them; the step takes what room is left."""
    widths = [max(len(head), *(len(row[i]) for row in rows)) for i, head in enumerate(heads)]
    room = screen - sum(widths) + widths[1] - 2 * len(heads)
    widths[1] = max(8, min(room, max(cell_len(row[1]) for row in rows)))
    return widths


def show_counts(console: Console, lines: Sequence[tuple[str, StepLine]]) -> None:
    """What one step counted: one line per label, without the step's text, and its remarks."""
    heads = ("", *HEADS[2:])
    rows = [(label, *_row(line)[2:]) for label, line in lines]
    widths = [max(len(head), *(len(row[i]) for row in rows)) for i, head in enumerate(heads)]
    for number, row in enumerate((heads, *rows)):
        cells = [
            cell.ljust(w) if i == 0 else cell.rjust(w)
            for i, (cell, w) in enumerate(zip(row, widths, strict=True))
        ]
        console.print(Text(("  " + "  ".join(cells)).rstrip(), style="" if number else "dim"), soft_wrap=True)
    _show_told(console, lines[-1][1], 0)


def show_balance(console: Console, summary: Summary) -> None:
    """Only the balance of rows and what happened to the extract."""
    _show_title(console, summary)
    _show_ending(console, summary)


def _show_title(console: Console, summary: Summary) -> None:
    title = summary.title or summary.recipe
    console.print(Text.assemble((title, "bold"), " on ", (summary.extract, "bold")), soft_wrap=True)


def _show_ending(console: Console, summary: Summary) -> None:
    _show_balance(console, summary)
    for warning in summary.warnings:
        console.print(Text(f"Warning: {warning}", style="yellow"), soft_wrap=True)
    _show_outcome(console, summary)


def duration(seconds: float) -> str:
    if seconds < 0.0995:
        return f"{seconds * 1000:.1f} ms"
    return f"{seconds:.1f} s" if seconds < 99.5 else f"{seconds / 60:.1f} min"


def _row(step: StepLine) -> tuple[str, ...]:
    tally = step.tally
    counts = (tally.counts["cells_changed"], tally.counts["nulls_made"], tally.counts["nulls_filled"])
    return (
        step.label,
        step.text,
        f"{tally.rows_in:,}",
        f"{tally.rows_out:,}",
        *(f"{count:,}" if count else "–" for count in counts),
        duration(step.seconds),
    )


def _line(cells: tuple[str, ...], widths: list[int]) -> str:
    parts = []
    for index, (cell, width) in enumerate(zip(cells, widths, strict=True)):
        if index == 1:
            if cell_len(cell) > width:
                cell = set_cell_size(cell, width - 1) + "…"
            parts.append(cell + " " * (width - cell_len(cell)))
        else:
            parts.append(cell.rjust(width))
    return "  ".join(parts).rstrip()


def _show_told(console: Console, step: StepLine, indent: int) -> None:
    """Facts in one line, for those who look for them; remarks one line each, to be seen."""
    if step.facts:
        _show_wrapped(console, "; ".join(step.facts), indent, "", "dim")
    for remark in step.remarks:
        _show_wrapped(console, remark, indent, "! ", "yellow")


def _show_wrapped(console: Console, message: str, indent: int, mark: str, style: str) -> None:
    lines = textwrap.wrap(message, max(30, console.width - indent - 6)) or [message]
    for number, line in enumerate(lines):
        text = (mark if number == 0 else " " * len(mark)) + line
        console.print(Text(" " * (indent + 2) + text, style=style), soft_wrap=True)


def _show_balance(console: Console, summary: Summary) -> None:
    balance = summary.balance
    text = (
        f"rows: {balance.read:,} read + {balance.added:,} added = {balance.delivered:,} delivered"
        f" + {balance.dropped:,} dropped + {balance.merged:,} merged + {balance.withdrawn:,} withdrawn"
    )
    if balance.set_aside:
        what = "extract row" if balance.set_aside == 1 else "extract rows"
        text += f" ({balance.set_aside:,} {what} set aside)"
    console.print(Text(text, style="bold"), soft_wrap=True)
    for row in summary.aside_examples:
        console.print(Text(f"  {row_and_line(row.row, row.line)}: {row.reason}"), soft_wrap=True)
    rest = balance.set_aside - len(summary.aside_examples)
    if rest > 0:
        console.print(Text(f"  and {rest:,} more"))


def _show_outcome(console: Console, summary: Summary) -> None:
    if summary.rehearsal:
        console.print(Text(f"Rehearsed in {duration(summary.seconds)}: nothing was written.", style="bold"))
        return
    replaced = f"; it replaced {summary.replaced}" * bool(summary.replaced)
    console.print(
        Text.assemble("Delivered ", (summary.output, "bold"), f" in {duration(summary.seconds)}{replaced}"),
        soft_wrap=True,
    )
    if summary.aside:
        console.print(Text.assemble("Set aside ", (summary.aside, "bold")), soft_wrap=True)
    if summary.not_noted:
        console.print(Text(f"Delivered, but not noted: {summary.not_noted}", style="yellow"), soft_wrap=True)
