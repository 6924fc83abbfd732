"""What does not fit of an extract, on the screen."""

from __future__ import annotations

from rich.console import Console
from rich.text import Text

from mangler.insight.fingerprint.checking import Checked
from mangler.language.mistake import describe

MOST_CONSEQUENCES = 3


def show_checked(console: Console, checked: Checked) -> None:
    runs = "the last run" if checked.earlier == 1 else f"the last {checked.earlier} runs"
    against = f"compared with {runs}" if checked.earlier else "no earlier run of such an extract is noted"
    console.print(Text.assemble((checked.extract, "bold"), f"  {against}"), soft_wrap=True)
    for mistake in checked.mistakes:
        first, *rest = describe(mistake).split("\n")
        console.print(Text(f"! {first}", style="red"), soft_wrap=True)
        for line in rest:
            console.print(Text(f"  {line}", style="dim"), soft_wrap=True)
    for finding in checked.findings:
        console.print(Text(f"! {finding.drift.message}", style="yellow"), soft_wrap=True)
        for consequence in finding.drift.consequences[:MOST_CONSEQUENCES]:
            console.print(Text(f"    and so {consequence}", style="dim"), soft_wrap=True)
        if (more := len(finding.drift.consequences) - MOST_CONSEQUENCES) > 0:
            console.print(Text(f"    and {more} more differences of the same cause", style="dim"))
        for step in finding.to_json()["steps"]:
            console.print(
                Text(f"    line {step['line']}: {step['step']}", style="dim"),
                no_wrap=True,
                overflow="ellipsis",
            )
    for warning in checked.warnings:
        console.print(Text(f"  {warning}", style="dim"), soft_wrap=True)
    if checked.set_aside:
        rows = "1 row" if checked.set_aside == 1 else f"{checked.set_aside:,} rows"
        console.print(Text(f"  {rows} would be set aside", style="dim"))
    if checked.fits:
        console.print(Text("  all fits" if checked.earlier else "  it has what the recipe needs"))
