"""Verdicts on a recipe's tests, and a failing test with what was expected and what came out side by side."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import zip_longest

from rich.cells import cell_len
from rich.console import Console
from rich.text import Text

from mangler.cli.views.cells import visible
from mangler.cli.views.marks import come, marked, removed
from mangler.engine.proof.proof import Outcome, Verdict, counts
from mangler.language.layout import one_line
from mangler.language.mistake import describe
from mangler.language.proofs import Proof
from mangler.language.tables import Cell

STYLES = {
    Outcome.PASSED: "green",
    Outcome.FAILED: "bold red",
    Outcome.REFUSED: "bold red",
    Outcome.OFF: "dim",
}
INDENT = "    "
BETWEEN = "   ≠   "


def show_verdicts(console: Console, recipe: str, verdicts: Sequence[Verdict]) -> None:
    if not verdicts:
        console.print(Text.assemble((recipe, "bold"), ": no tests"), soft_wrap=True)
        return
    console.print(Text(recipe, style="bold"), soft_wrap=True)
    for verdict in verdicts:
        _show_verdict(console, verdict)
    message = ", ".join(f"{count} {_words(name)}" for name, count in counts(verdicts).items() if count)
    tests = "1 test" if len(verdicts) == 1 else f"{len(verdicts)} tests"
    console.print(Text(f"  {tests}: {message}", style="bold"), soft_wrap=True)


def _show_verdict(console: Console, verdict: Verdict) -> None:
    proof, outcome = verdict.proof, verdict.outcome
    text = Text(f"  line {proof.test.line:<4} ")
    text.append(f"{_words(outcome):<12}", style=STYLES[outcome])
    if outcome is Outcome.OFF:
        text.append(f" {proof.title}{', ' * bool(proof.title)}with the step in line {proof.switched_off}")
    else:
        text.append(f" {proof.title or _what(proof)}")
    console.print(text, soft_wrap=True)
    if not verdict.speaks_against:
        return
    console.print()
    for step in proof.steps:
        console.print(Text(f"{INDENT}line {step.line}: {one_line(step)}"), soft_wrap=True)
    console.print()
    if verdict.refusal is not None:
        for mistake in verdict.refusal.mistakes:
            for line in describe(mistake).split("\n"):
                console.print(Text(INDENT + line), soft_wrap=True)
    else:
        _show_difference(console, verdict)
    console.print()


def _what(proof: Proof) -> str:
    """A test without a title is known by its step."""
    text = one_line(proof.steps[-1])
    return text if proof.count == 1 else f"{proof.count} steps up to {text}"


def _words(outcome: str) -> str:
    return {"refused": "not fitting", "off": "switched off"}.get(outcome, outcome)


def _show_difference(console: Console, verdict: Verdict) -> None:
    expected = verdict.proof.expected
    left, right, unequal = _blocks(expected.names, expected.rows, verdict.names, verdict.rows)
    left_width, right_width = (max(cell_len(line.plain) for line in block) for block in (left, right))
    left_width, right_width = max(left_width, len("expected")), max(right_width, len("got"))
    if len(INDENT) + left_width + len(BETWEEN) + right_width <= console.width:
        _print(
            console,
            _padded(Text("expected", style="bold"), left_width),
            " " * len(BETWEEN),
            Text("got", "bold"),
        )
        for number, (one, other) in enumerate(zip(left, right, strict=True)):
            between = BETWEEN if unequal[number] else " " * len(BETWEEN)
            _print(console, _padded(one, left_width), between, other)
    else:  # a narrow screen has one above the other
        for name, block in (("expected", left), ("got", right)):
            _print(console, Text(name, style="bold"))
            for line, differs in zip(block, unequal, strict=True):
                _print(console, "≠ " if differs else "  ", line)
    for sentence in (*_told(verdict), *verdict.remarks):
        console.print(Text(INDENT + sentence, style="yellow"), soft_wrap=True)


def _told(verdict: Verdict) -> list[str]:
    messages = list(verdict.problems)
    if verdict.passes_over:
        steps = "1 step" if verdict.passes_over == 1 else f"{verdict.passes_over} steps"
        clause = "without for" if verdict.passes_over == 1 else f"with for {verdict.passes_over} steps"
        messages.append(f"It would pass over {steps}: {clause}.")
    return messages


def _blocks(
    expected_names: Sequence[str],
    expected_rows: Sequence[Sequence[Cell]],
    names: Sequence[str],
    rows: Sequence[Sequence[Cell]],
) -> tuple[list[Text], list[Text], list[bool]]:
    """The lines of both tables, heads first, and which of them differ."""
    left = [[visible(name) for name in expected_names]]
    right = [[visible(name) for name in names]]
    unequal = [tuple(expected_names) != tuple(names)]
    for wanted, got in zip_longest(expected_rows, rows):
        left.append([])
        right.append([])
        unequal.append(wanted is None or got is None)
        if wanted is None or got is None:
            left[-1] += [Text()] * len(expected_names) if wanted is None else map(removed, wanted)
            right[-1] += [Text()] * len(names) if got is None else map(come, got)
            continue
        of_left = dict(zip(expected_names, wanted, strict=True))
        of_right = dict(zip(names, got, strict=True))
        unequal[-1] = unequal[0] or tuple(wanted) != tuple(got)
        for name, value in of_left.items():
            left[-1].append(marked(value, of_right[name])[0] if name in of_right else removed(value))
        for name, value in of_right.items():
            right[-1].append(marked(of_left[name], value)[1])
    unequal[1:] = [
        (differs and not unequal[0]) or _bears_marks(line)
        for line, differs in zip(left[1:], unequal[1:], strict=True)
    ]
    return _lined_up(left), _lined_up(right), unequal


def _bears_marks(cells: Sequence[Text]) -> bool:
    return any("⟨" in cell.plain for cell in cells)


def _lined_up(block: list[list[Text]]) -> list[Text]:
    widths = [max(cell_len(row[i].plain) for row in block) for i in range(len(block[0]))]
    lines = []
    for row in block:
        line = Text()
        for index, (cell, width) in enumerate(zip(row, widths, strict=True)):
            line.append_text(_padded(cell, width) if index < len(widths) - 1 else cell)
            line.append(" | " if index < len(widths) - 1 else "", style="dim")
        lines.append(line)
    return lines


def _padded(text: Text, width: int) -> Text:
    padded = text.copy()
    padded.append(" " * (width - cell_len(text.plain)))
    return padded


def _print(console: Console, *parts: Text | str) -> None:
    line = Text(INDENT)
    for part in parts:
        line.append_text(Text(part, style="bold") if isinstance(part, str) else part)
    line.rstrip()
    console.print(line, soft_wrap=True)
