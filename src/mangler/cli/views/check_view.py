"""What does not fit of an extract, on the screen."""

from __future__ import annotations

from collections.abc import Sequence

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
        console.print(Text.assemble((f"! {first}", "red"), (f"  ({mistake.word})", "dim")), soft_wrap=True)
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
    console.print(Text(f"  {verdict(checked)}", style="bold"), soft_wrap=True)


def verdict(checked: Checked) -> str:
    """What a run would do with the extract, in one sentence."""
    return verdict_of(bool(checked.mistakes), len(checked.findings), checked.set_aside)


def verdict_of(refused: bool, changes: int, set_aside: int) -> str:
    """The same of an extract with so many changes, of which so many rows would be set aside."""
    if refused:
        return "It does not fit: a run would deliver nothing of it."
    aside = f", and set {set_aside:,} {'row' if set_aside == 1 else 'rows'} aside" if set_aside else ""
    if changes:
        found = "1 change" if changes == 1 else f"{changes:,} changes"
        return f"It is not like the earlier ones ({found}): a run would deliver it with warnings{aside}."
    return f"It fits: a run would deliver it{aside}."


def show_all_checked(console: Console, all_checked: Sequence[Checked], unread: int) -> None:
    """The verdict on several extracts; `unread` are those that could not be read."""
    refused = sum(bool(one.mistakes) for one in all_checked) + unread
    changed = sum(not one.mistakes and bool(one.findings) for one in all_checked)
    fitting = len(all_checked) + unread - refused - changed
    like = "is not like the earlier ones" if changed == 1 else "are not like the earlier ones"
    counts = (
        (fitting, "fits" if fitting == 1 else "fit"),
        (changed, like),
        (refused, "would not be delivered"),
    )
    told = ", ".join(f"{count:,} {what}" for count, what in counts if count)
    console.print(Text(f"Of {len(all_checked) + unread:,} extracts {told}.", style="bold"), soft_wrap=True)
