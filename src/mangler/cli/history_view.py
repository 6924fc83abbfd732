"""Past runs on the screen: a line a run, or one with its summary."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields
from pathlib import Path
from shlex import quote
from typing import Any

from rich.console import Console
from rich.text import Text

from mangler.cli.lines import print_lines
from mangler.cli.summary_view import show_summary
from mangler.engine.summary import Balance, StepLine, Summary
from mangler.formats.delimited.aside import AsideRow
from mangler.history.store import PastRun, State, beside
from mangler.table.tally import Tally

STYLES = {State.DELIVERED: "", State.REFUSED: "yellow", State.BROKEN_OFF: "red", State.DELIVERING: "dim"}


def show_runs(console: Console, runs: Sequence[PastRun], history: Path) -> None:
    """`history` is the file that they are noted in."""
    if not runs:
        console.print(Text("No runs are noted here."))
        return
    of_several = len({run.recipe for run in runs}) > 1
    rows = [
        [
            Text(str(run.number)),
            Text(run.started[:16].replace("T", " ")),
            Text(str(run.state), style=STYLES[run.state]),
            *(Text(count) for count in _counts(run)),
            *([Text(Path(run.recipe).name)] * of_several),
            Text(run.extract),
        ]
        for run in runs
    ]
    heads = ["run", "started (UTC)", "ended", "read", "delivered", "set aside", "warnings", "extract"]
    if of_several:
        heads.insert(-1, "recipe")
    print_lines(console, heads, rows, right=(0, 3, 4, 5, 6))
    console.print()
    elsewhere = "" if history == beside(Path("here")) else f" --history {quote(str(history))}"
    told = f"One of them, with its summary: mangler history show {runs[0].number}{elsewhere}"
    console.print(Text(told, style="dim"), soft_wrap=True)


def _counts(run: PastRun) -> list[str]:
    balance = run.account.get("balance")
    if run.state is not State.DELIVERED or balance is None:
        return ["–"] * 4
    warnings = len(run.account.get("warnings", ()))
    counts = (balance["read"], balance["delivered"], balance["set_aside"], warnings)
    return [f"{count:,}" if count else "–" for count in counts]


def show_run(console: Console, run: PastRun) -> None:
    """One run: when, of what, and what it told."""
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
        console.print(Text("It ended before its output stood in its place: nothing was delivered."))
        return
    show_summary(console, summary_of(run))


def summary_of(run: PastRun) -> Summary:
    """The summary as the run gave it."""
    account = run.account
    output, aside = account["output"] or "", account["aside"] or ""
    summary = Summary(run.recipe, account.get("title", ""), run.extract, output, aside)
    summary.aside_examples = [AsideRow(**one, as_read=b"") for one in account.get("set_aside_first", ())]
    summary.found_out, summary.columns = account["found_out"], account["columns"]
    summary.steps = [_line(step) for step in account["steps"]]
    summary.balance = Balance(**account["balance"])
    summary.warnings, summary.seconds = account["warnings"], account["seconds"]
    return summary


def _line(step: dict[str, Any]) -> StepLine:
    known = {field.name for field in fields(Tally)}
    tally = Tally(**{key: value for key, value in step.items() if key in known})
    return StepLine(
        step["line"] or 0,
        step["step"],
        tally,
        step["seconds"],
        step["remarks"],
        step["facts"],
        step["file"] or "",
    )
