"""The summary of a run: one line per step, what is worth a second look, and the balance of rows."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence

from rich.cells import cell_len, set_cell_size
from rich.console import Console
from rich.text import Text

from mangler.engine.run.summary import Balance, StepLine, Summary, example_text, rows_text

HEADS: tuple[str, ...] = ("line", "step", "rows", "changed", "nulls made", "filled", "time")
COUNTED = ("cells_changed", "nulls_made", "nulls_filled")
LEAST_STEP = 24
LEAST_SHOWN = 0.00005
"""Seconds; less is no time worth a look."""


def show_summary(console: Console, summary: Summary) -> None:
    """The full account: what was detected, a line per step, reading, writing, the balance of rows."""
    _show_title(console, summary)
    found = ", ".join(f"{what} {found}" for what, found in summary.detected.items())
    if found:
        console.print(Text(f"  detected: {found}", style="dim"), soft_wrap=True)
    console.print()
    steps = [*summary.steps, *_writing(summary)]
    rows = [_row(step, number) for number, step in enumerate(steps)]
    kept = _kept(rows)
    heads, rows = tuple(HEADS[i] for i in kept), [tuple(row[i] for i in kept) for row in rows]
    widths = _widths(console.width, heads, rows)
    if widths[1] < min(
        LEAST_STEP, max(cell_len(row[1]) for row in rows)
    ):  # a narrow screen does without the times
        heads, rows = heads[:-1], [row[:-1] for row in rows]
        widths = _widths(console.width, heads, rows)
    console.print(Text(_line(heads, widths), style="dim"), soft_wrap=True)
    for step, row in zip(steps, rows, strict=True):
        console.print(Text(_line(row, widths)), soft_wrap=True)
        _show_told(console, step, widths[0])
    console.print()
    _show_ending(console, summary)


def _writing(summary: Summary) -> list[StepLine]:
    """The lines after the steps: what time the output took, and the rows set aside."""
    aside = [summary.setting_aside] if summary.balance.set_aside else []
    writing = summary.writing
    return [*aside, writing] if writing.line or writing.seconds else aside


def _kept(rows: list[tuple[str, ...]]) -> list[int]:
    """The columns that say anything; the line, the step and the time are always there."""
    always = (0, 1, len(HEADS) - 1)
    return [index for index in range(len(HEADS)) if index in always or any(row[index] for row in rows)]


def _widths(screen: int, heads: tuple[str, ...], rows: list[tuple[str, ...]]) -> list[int]:
    """Columns as wide as what is in them; the step takes what room is left."""
    widths = [max(len(head), *(len(row[i]) for row in rows)) for i, head in enumerate(heads)]
    room = screen - sum(widths) + widths[1] - 2 * len(heads)
    widths[1] = max(8, min(room, max(cell_len(row[1]) for row in rows)))
    return widths


def show_counts(console: Console, lines: Sequence[tuple[str, StepLine]]) -> None:
    """What one step counted: one line per label, without the step's text, and its remarks."""
    all_rows = [(label, *_row(line, 0)[2:]) for label, line in lines]
    kept = [0, *(i for i in range(1, len(HEADS) - 1) if any(row[i] for row in all_rows))]
    heads = tuple(("", *HEADS[2:])[i] for i in kept)
    rows = [tuple(row[i] for i in kept) for row in all_rows]
    widths = [max(len(head), *(len(row[i]) for row in rows)) for i, head in enumerate(heads)]
    for number, row in enumerate((heads, *rows)):
        cells = [
            cell.ljust(w) if i == 0 else cell.rjust(w)
            for i, (cell, w) in enumerate(zip(row, widths, strict=True))
        ]
        console.print(Text(("  " + "  ".join(cells)).rstrip(), style="" if number else "dim"), soft_wrap=True)
    _show_told(console, lines[-1][1], 0)


def show_line_of(console: Console, summary: Summary, verdict: str) -> None:
    """One of several extracts in one line, its verdict first; then only what needs a look."""
    balance = summary.balance
    counts = rows_text(balance.read)
    if balance.read != balance.delivered:
        counts = f"{balance.read:,} → {rows_text(balance.delivered)}"
    if balance.set_aside:
        counts += f", {balance.set_aside:,} set aside"
    remarks = sum(len(step.remarks) for step in summary.steps)
    if remarks:
        counts += f", {remarks:,} {'remark' if remarks == 1 else 'remarks'}"
    console.print(
        Text.assemble((verdict, "bold"), f"  {summary.extract}: {counts}"),
        soft_wrap=True,
    )
    for warning in summary.warnings:
        console.print(Text(f"  Warning: {warning}", style="yellow"), soft_wrap=True)
    if summary.not_noted:
        console.print(Text(f"  Not noted: {summary.not_noted}", style="yellow"), soft_wrap=True)


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


def _row(step: StepLine, number: int) -> tuple[str, ...]:
    """The cells of a line. Rows are counted in the first line, and where they change."""
    tally = step.tally
    rows = ""
    if tally.rows_in != tally.rows_out:
        rows = f"{tally.rows_in:,} → {tally.rows_out:,}"
    elif number == 0:
        rows = f"{tally.rows_in:,}"
    counts = [tally.counts[name] for name in COUNTED]
    return (
        step.label,
        step.text,
        rows,
        *(f"{count:,}" if count else "" for count in counts),
        duration(step.seconds) if step.seconds >= LEAST_SHOWN else "",
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


def balance_text(balance: Balance, end: str = "delivered") -> tuple[str, str]:
    """The two sides of the balance of rows, without what is zero. `end`: what happened to the rows that came out."""
    came = [f"{balance.read:,} read", f"{balance.added:,} added" * bool(balance.added)]
    went = [f"{balance.delivered:,} {end}"]
    for name in ("dropped", "merged", "withdrawn"):
        count = getattr(balance, name)
        went.append(f"{count:,} {name}" * bool(count))
    sides = [" + ".join(filter(None, side)) for side in (came, went)]
    if balance.set_aside:
        what = "extract row" if balance.set_aside == 1 else "extract rows"
        sides[1] += f" ({balance.set_aside:,} {what} set aside)"
    return f"rows: {sides[0]}", f"= {sides[1]}"


def _show_balance(console: Console, summary: Summary) -> None:
    balance = summary.balance
    left, right = balance_text(balance, "delivered" if summary.together is None else "into one table")
    gap = " " if len(left) + len(right) < console.width else "\n    "
    console.print(Text(f"{left}{gap}{right}", style="bold"), soft_wrap=True)
    for row in summary.aside_examples:
        console.print(Text(f"  {example_text(row.row, row.line, row.reason)}"), soft_wrap=True)
    rest = balance.set_aside - len(summary.aside_examples)
    if rest > 0:
        console.print(Text(f"  and {rest:,} more"))


def _show_outcome(console: Console, summary: Summary) -> None:
    if summary.rehearsal:
        console.print(Text(f"Rehearsed in {duration(summary.seconds)}: nothing was written.", style="bold"))
        return
    if summary.together is not None:  # it is said once, of all extracts
        _show_aside(console, summary)
        return
    done = "Appended to " if summary.appended else "Delivered "
    before = f"; it {'was' if summary.appended else 'replaced'} {summary.replaced}" * bool(summary.replaced)
    console.print(
        Text.assemble(done, (summary.output, "bold"), f" in {duration(summary.seconds)}{before}"),
        soft_wrap=True,
    )
    _show_aside(console, summary)


def _show_aside(console: Console, summary: Summary) -> None:
    if summary.aside:
        console.print(Text.assemble("Set aside ", (summary.aside, "bold")), soft_wrap=True)
    if summary.not_noted:
        console.print(Text(f"Delivered, but not noted: {summary.not_noted}", style="yellow"), soft_wrap=True)
