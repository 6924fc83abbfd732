"""Past runs on the screen: one line per run, or one with its summary."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from shlex import quote
from typing import Any

from rich.cells import cell_len
from rich.console import Console
from rich.text import Text

from mangler.cli.views.lines import GAP, INDENT, print_lines, widths
from mangler.cli.views.summary_view import show_summary
from mangler.engine.run.summary import COUNTS as STEP_COUNTS
from mangler.engine.run.summary import Balance, StepLine, Summary
from mangler.formats.aside import AsideRow
from mangler.history.store import PastRun, State, beside
from mangler.history.stored import BALANCE, COUNT, DELIVERED, NUMBER, WRITING, has_shape
from mangler.table.tally import Tally

COUNTS = ("read", "delivered", "set aside", "warnings")
LEFT_OUT = ("read", "warnings", "set aside")
"""Columns that a narrow screen does without, in this order."""
LEAST_ROOM = 24
"""Characters of an extract's name that are shown at least."""
STYLES = {State.DELIVERED: "", State.REFUSED: "yellow", State.BROKEN_OFF: "red", State.DELIVERING: "dim"}
STYLES[State.UNKNOWN] = "red"


def show_runs(console: Console, runs: Sequence[PastRun], history: Path) -> None:
    """`history` is the file that they are noted in."""
    if not runs:
        console.print(Text("No runs are noted here."))
        return
    columns = {
        "run": [Text(str(run.number)) for run in runs],
        "started (UTC)": [Text(run.started[:16].replace("T", " ")) for run in runs],
        "ended": [Text(str(run.state), style=STYLES[run.state]) for run in runs],
        **_counts(runs),
    }
    if len({run.recipe for run in runs}) > 1:
        columns["recipe"] = [Text(Path(run.recipe).stem) for run in runs]
    room = _room(console, columns)
    for name in LEFT_OUT:
        if console.is_terminal and room < LEAST_ROOM:
            del columns[name]
            room = _room(console, columns)
    columns["extract"] = [
        Text(_end_of(run.extract, room) if console.is_terminal else run.extract) for run in runs
    ]
    right = [index for index, name in enumerate(columns) if name in COUNTS or name == "run"]
    print_lines(console, list(columns), list(zip(*columns.values(), strict=True)), right)
    console.print()
    elsewhere = "" if history == beside(Path("here")) else f" --history {quote(str(history))}"
    message = f"One of them, with its summary: mangler history show {runs[0].number}{elsewhere}"
    console.print(Text(message, style="dim"), soft_wrap=True)


def _room(console: Console, columns: dict[str, list[Text]]) -> int:
    """Characters that are left on a line beside these columns."""
    rows = list(zip(*columns.values(), strict=True))
    return console.width - len(INDENT) - sum(width + len(GAP) for width in widths(list(columns), rows))


def _end_of(path: str, room: int) -> str:
    """The end of a path that is too long for a line: it tells most."""
    room = max(room, LEAST_ROOM)
    return path if cell_len(path) <= room else "…" + path[-(room - 1) :]


def _counts(runs: Sequence[PastRun]) -> dict[str, list[Text]]:
    counts: dict[str, list[Text]] = {name: [] for name in COUNTS}
    for run in runs:
        balance = run.account.get("balance") if run.state is State.DELIVERED else None
        known = {**balance, "warnings": len(run.account.get("warnings", ()))} if balance else {}
        for name, cells in counts.items():
            count = known.get(name.replace(" ", "_"), 0)
            cells.append(Text(f"{count:,}" if count else "–"))
    return counts


def show_run(console: Console, run: PastRun) -> None:
    """One run: when, of what, and what it reported."""
    console.print(
        Text.assemble(
            (f"run {run.number}", "bold"), f"  {run.started[:19].replace('T', ' ')} UTC, {run.state}"
        ),
        soft_wrap=True,
    )
    console.print(Text(f"recipe   {run.recipe}  {run.recipe_digest}", style="dim"), soft_wrap=True)
    if run.extract_digest:
        console.print(Text(f"extract  {run.extract}  {run.extract_digest}", style="dim"), soft_wrap=True)
    console.print()
    if run.state is State.UNKNOWN:
        console.print(Text("What is noted of it is damaged, or of another version of Mangler."))
        return
    mistakes = run.account.get("mistakes")
    if mistakes:
        console.print(Text(f"{run.extract} was not delivered:", style="bold"))
        for mistake in mistakes:
            where = f"line {mistake['line']}: " if mistake["line"] else ""
            console.print(Text(f"  {where}{mistake['message']}"), soft_wrap=True)
            for line in (mistake["advice"] or "").splitlines():
                console.print(Text(f"    {line}", style="dim"), soft_wrap=True)
        return
    if run.state is not State.DELIVERED:
        console.print(Text("It ended before its output was in its place: nothing was delivered."))
        return
    summary = summary_of(run)
    show_summary(console, summary)
    if summary.together is not None:
        console.print()
        show_summary(console, summary.together)


def summary_of(run: PastRun) -> Summary:
    """The summary as the run gave it."""
    summary = _summary_of(run, run.extract, run.account)
    together: Any = run.account.get("together")
    if has_shape(together, DELIVERED):
        summary.together = _summary_of(run, str(together.get("extract")), together)
    return summary


def _summary_of(run: PastRun, extract: str, account: dict[str, Any]) -> Summary:
    output, aside = account["output"] or "", account["aside"] or ""
    summary = Summary(run.recipe, account.get("title", ""), extract, output, aside)
    summary.aside_examples = [
        AsideRow(one["row"], one["line"], one["step"], one["reason"], b"")
        for one in account["set_aside_first"]
    ]
    summary.detected, summary.columns = account["found_out"], account["columns"]
    summary.replaced = str(account.get("replaced") or "")
    summary.appended = account.get("appended") is True
    summary.steps = [_line(step) for step in account["steps"]]
    summary.balance = Balance(**{name: account["balance"][name] for name in BALANCE})
    summary.warnings, summary.seconds = account["warnings"], account["seconds"]
    writing: Any = account.get("writing")
    if has_shape(writing, WRITING):  # runs of earlier versions did not note it
        summary.writing = StepLine(writing["line"], writing["step"], seconds=writing["seconds"])
    seconds: Any = account.get("seconds_setting_aside")
    summary.setting_aside.seconds = seconds if has_shape(seconds, NUMBER) else 0.0
    return summary


def _line(step: dict[str, Any]) -> StepLine:
    tally = Tally.of_counts({key: step[key] for key in STEP_COUNTS if has_shape(step.get(key), COUNT)})
    return StepLine(
        step["line"] or 0,
        step["step"],
        tally,
        step["seconds"],
        step["remarks"],
        step["facts"],
        step["file"] or "",
    )
