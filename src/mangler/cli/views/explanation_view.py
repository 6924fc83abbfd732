"""A recipe in plain words, on the screen."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence

from rich.console import Console
from rich.text import Text

from mangler.cli.shown import shown
from mangler.cli.views.cells import visible
from mangler.cli.views.lines import INDENT, print_lines
from mangler.insight.explanation.explanation import Explanation, OutputColumn
from mangler.insight.explanation.fates import Fate
from mangler.insight.explanation.words import listed

MOST_SOURCES, MOST_LINES = 4, 12
MOST_ENDED = 20


def show_explanation(console: Console, told: Explanation) -> None:
    """Every statement in words, then the columns of the output."""
    console.print(Text.assemble((shown(told.title or told.recipe), "bold"), _of(told)), soft_wrap=True)
    console.print()
    wide = max((len(one.label) for one in told.told), default=0)
    for one in told.told:
        _show_sentence(console, one.label.rjust(wide), one.sentence, one.mistake)
    if any(one.is_step for one in told.told):
        rule = f"{INDENT}Where no sentence says otherwise, what fails is reported, and nothing is delivered."
        console.print(Text(rule, style="dim"), soft_wrap=True)
    if told.outputs:
        console.print()
        _show_outputs(console, told)
    if told.is_open:
        console.print(Text(f"{INDENT}and columns whose names depend on the rows", style="dim"))
    if told.ended:
        names = [f"{name} (line {told.told[at].label})" for name, at in told.ended.items()]
        console.print()
        console.print(Text(f"Not in the output: {shown(listed(names, MOST_ENDED))}."), soft_wrap=True)


def _of(told: Explanation) -> str:
    if told.extract:
        return f", for the columns of {shown(told.extract)}"
    return "" if not told.title else f", {shown(told.recipe)}"


def _show_sentence(console: Console, label: str, sentence: str, mistake: str = "") -> None:
    room = max(30, console.width - len(label) - 2 * len(INDENT))
    for text, style in ((sentence, ""), (f"! does not fit: {mistake}" if mistake else "", "yellow")):
        for number, line in enumerate(textwrap.wrap(shown(text).replace("\n", " "), room)):
            head = label if number == 0 and not style else " " * len(label)
            console.print(Text.assemble((f"{INDENT}{head}{INDENT}", "dim"), (line, style)), soft_wrap=True)


def _show_outputs(console: Console, told: Explanation) -> None:
    """A line for each column of the output: what it comes from, and the lines of the steps that worked on it."""
    rows = [[visible(one.name), Text(_sources(told, one)), Text(_lines(told, one))] for one in told.outputs]
    print_lines(console, ["column", "comes from", "in lines"], rows, ())


def _sources(explanation: Explanation, one: OutputColumn) -> str:
    names = [visible(name).plain for name in one.sources]
    told = listed(names, MOST_SOURCES) if names else ""
    files = listed([shown(file) for file in one.files]) if one.files else ""
    if not told and not files and any(explanation.told[at].mistake for at in one.steps):
        return "a step that does not fit"
    return " and ".join(filter(None, [told, files])) or "the recipe itself"


def _lines(told: Explanation, one: OutputColumn) -> str:
    lines = list(dict.fromkeys(told.told[at].label for at in one.steps))
    return ", ".join(lines[:MOST_LINES]) + f" and {len(lines) - MOST_LINES} more" * (len(lines) > MOST_LINES)


def show_columns(console: Console, told: Explanation, names: Sequence[str]) -> None:
    """All that happens to some columns of the output."""
    for number, one in enumerate(one for one in told.outputs if one.name in names):
        if number:
            console.print()
        console.print(
            Text.assemble((visible(one.name).plain, "bold"), f" comes from {_sources(told, one)}"),
            soft_wrap=True,
        )
        wide = max((len(told.told[at].label) for at in one.steps), default=0)
        for at in one.steps:
            _show_sentence(console, told.told[at].label.rjust(wide), told.told[at].sentence)
        if not one.steps:
            console.print(Text(f"{INDENT}No step touches it.", style="dim"))


def show_fate(console: Console, fate: Fate) -> None:
    """What the recipe would do to a column that is added."""
    head = Text.assemble(
        "A column ", (visible(fate.name).plain, "bold"), f" of type {fate.type}, added to the extract:"
    )
    console.print(head, soft_wrap=True)
    wide = max((len(one.label) for one in fate.steps), default=0)
    for one in fate.steps:
        _show_sentence(console, one.label.rjust(wide), f"{one.text}: {one.what}.")
    console.print(Text(f"{INDENT}{shown(fate.end)}", style="bold"), soft_wrap=True)
