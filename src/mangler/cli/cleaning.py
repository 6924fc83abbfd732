"""One extract of `mangler run`: it is cleaned, accounted for, and shown."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from mangler.cli.answering import show_line, show_refusal
from mangler.cli.fault import refusal_of
from mangler.cli.places import Place
from mangler.engine.destination import DelimitedOutput
from mangler.engine.recipe import Cleaned, Recipe, Result, deliver
from mangler.engine.running import RunOptions
from mangler.engine.summary import Summary, refusal_to_json
from mangler.history.recording import RecipeHistory, Recording
from mangler.language.mistake import ExitCode, Refusal

if TYPE_CHECKING:
    from mangler.engine.destination import Destination
    from mangler.insight.fingerprint import Fingerprint

PREVIEW_ROWS = 10


@dataclass(frozen=True)
class Manner:
    """What goes for every extract of a command."""

    options: RunOptions
    rehearse: bool = False
    into_stdout: bool = False
    silent: bool = False
    """No summary and no progress: only errors are shown."""
    several: bool = False
    """Whether there are others: then a blank line is between their summaries."""
    not_noted: str = ""
    """Why no run can be noted in the history that is there; empty where runs are noted, or where there is none."""


@dataclass
class Outcome:
    """What became of one extract: `result` where it was cleaned, `refusal` where it was not."""

    account: dict[str, Any]
    """That of `--json`."""
    code: int
    result: Result | None = None
    refusal: Refusal | None = None


Progress = Callable[[int, int], None]
Before = Callable[[], "Sequence[Fingerprint]"]


def clean_one(
    recipe: Recipe,
    place: Place,
    manner: Manner,
    past: RecipeHistory | None,
    progress: Progress | None = None,
    before: Before | None = None,
) -> Outcome:
    """Cleans and delivers an extract, and notes it in the history. A refusal is an outcome too."""
    output = DelimitedOutput(place.output, manner.rehearse)
    recording, cleaned = prepare_one(recipe, place, output, manner, past, progress, before)
    if isinstance(cleaned, Cleaned):
        try:
            cleaned.result.summary.replaced = "" if manner.rehearse else what_was_at(place.output, past)
            deliver([cleaned], output)
            return delivered(cleaned, place, manner, recording)
        except BrokenPipeError:
            raise
        except Exception as error:
            cleaned = refusal_of(error)
    return refused(cleaned, place, recording)


def what_was_at(output: Path | None, past: RecipeHistory | None) -> str:
    """What an output is about to replace; empty where there is nothing."""
    try:
        if output is None or not output.is_file():
            return ""
        return past.history.what_is_at(output.absolute()) if past is not None else "a file that was there"
    except (OSError, Refusal):  # told when it is written
        return ""


def prepare_one(
    recipe: Recipe,
    place: Place,
    destination: Destination,
    manner: Manner,
    past: RecipeHistory | None,
    progress: Progress | None = None,
    before: Before | None = None,
) -> tuple[Recording | None, Cleaned | Refusal]:
    """Cleans an extract up to where it would be delivered, or gives what speaks against that."""
    from mangler.library import looking_on

    preview = PREVIEW_ROWS if manner.rehearse and not manner.silent else 0
    options = replace(manner.options, preview=preview, progress=progress)
    recording = None
    if past is not None:
        recording, options = looking_on(past, recipe, place.extract, options, before)
    aside = None if manner.rehearse else place.aside
    try:
        return recording, recipe.prepare(place.extract, destination, aside, options, manner.into_stdout)
    except Exception as error:
        return recording, refusal_of(error)


def refused(refusal: Refusal, place: Place, recording: Recording | None) -> Outcome:
    account = refusal_to_json(place.extract, refusal)
    if recording is not None:
        recording.refused(place.extract, account)
    return Outcome(account, int(refusal.code), refusal=refusal)


def delivered(cleaned: Cleaned, place: Place, manner: Manner, recording: Recording | None) -> Outcome:
    """The account of an extract whose output stands in its place, with the names of its files."""
    summary = cleaned.result.summary
    summary.rehearsal = manner.rehearse
    summary.output = "" if manner.rehearse else str(place.output) if place.output else "standard output"
    if not manner.rehearse and place.aside is not None:
        _account_for_aside(summary, place.aside)
    summary.not_noted = manner.not_noted
    if recording is not None:
        recording.completed(summary)
        summary.not_noted = recording.trouble
    return Outcome(summary.to_json(), ExitCode.NOT_NOTED if summary.not_noted else 0, cleaned.result)


def _account_for_aside(summary: Summary, aside: Path) -> None:
    if summary.balance.set_aside:
        summary.aside = str(aside)
    elif aside.exists():
        summary.warnings.append(f"{aside} is of an earlier run: this one set no rows aside")


def show_outcome(outcome: Outcome, extract: str, manner: Manner) -> None:
    if "delivered_before" in outcome.account:
        if not manner.silent:
            show_line(f"{extract} is passed over: {outcome.account['message']}")
    elif outcome.refusal is not None:
        show_line(f"{extract} is not delivered:")
        show_refusal(outcome.refusal)
    elif outcome.result is not None and not manner.silent:
        _show_result(outcome.result, manner.rehearse)
        if manner.several:
            show_line("")
    elif outcome.result is not None and outcome.result.summary.not_noted:
        show_line(f"{extract} is delivered, but not noted: {outcome.result.summary.not_noted}")


def _show_result(result: Result, rehearse: bool) -> None:
    from mangler.cli.screen import answer_console, error_console
    from mangler.cli.summary_view import show_summary

    if rehearse and result.preview:
        from mangler.cli.table_view import show_table
        from mangler.table.small import cells_of

        cells: list[list[Any]] = [[] for _ in result.columns]
        numbers: list[int] = []
        for batch in result.preview:
            for column, array in zip(cells, batch.columns, strict=True):
                column += cells_of(array.slice(0, PREVIEW_ROWS))
            numbers += batch.rows[:PREVIEW_ROWS].tolist()
        first = [column[:PREVIEW_ROWS] for column in cells]
        console = answer_console()
        show_table(console, result.columns, first, numbers[:PREVIEW_ROWS])
        if console.is_terminal:  # the summary stands under it
            console.print()
    show_summary(error_console(), result.summary)
