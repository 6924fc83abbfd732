"""One extract of a job: it is cleaned, delivered, and noted in the history."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from mangler.addresses import is_database, is_remote
from mangler.engine.run.destination import FileOutput
from mangler.engine.run.linked_recipe import LinkedRecipe, PreparedRun, deliver
from mangler.engine.run.summary import Summary, refusal_to_json
from mangler.formats.contract import Sink
from mangler.formats.location import split_address
from mangler.history.recording import RecipeHistory, Recording
from mangler.insight.fingerprint.fingerprint import Fingerprint, series_of
from mangler.jobs.fault import refusal_of
from mangler.jobs.outcome import JobSettings, Outcome
from mangler.jobs.output_paths import OutputPaths
from mangler.language.mistake import ExitCode, Refusal
from mangler.library import looking_on

Progress = Callable[[int, int], None]
Before = Callable[[], Sequence[Fingerprint]]


def clean_one(
    recipe: LinkedRecipe,
    paths: OutputPaths,
    settings: JobSettings,
    past: RecipeHistory | None,
    progress: Progress | None = None,
    before: Before | None = None,
) -> Outcome:
    """Cleans and delivers an extract, and notes it in the history. A refusal is an outcome too."""
    output = FileOutput(paths.output, settings.rehearse, settings.append, paths.address)
    recording, cleaned = prepare_one(recipe, paths, output, settings, past, progress, before)
    if isinstance(cleaned, PreparedRun):
        try:
            cleaned.result.summary.replaced = "" if settings.rehearse else what_was_at(paths.output, past)
            cleaned.result.summary.appended = output.went_behind
            deliver([cleaned], output)
            return delivered(cleaned, paths, settings, recording, output.place)
        except BrokenPipeError:
            raise
        except Exception as error:
            cleaned = refusal_of(error)
    return refused(cleaned, paths, recording)


def what_was_at(output: Path | None, past: RecipeHistory | None) -> str:
    """What an output is about to replace; empty where there is nothing."""
    try:
        if output is None or not output.is_file():
            return ""
        return past.history.what_is_at(output.absolute()) if past is not None else "a file that was there"
    except (OSError, Refusal):  # reported when it is written
        return ""


def prepare_one(
    recipe: LinkedRecipe,
    paths: OutputPaths,
    sink: Sink,
    settings: JobSettings,
    past: RecipeHistory | None,
    progress: Progress | None = None,
    before: Before | None = None,
) -> tuple[Recording | None, PreparedRun | Refusal]:
    """Cleans an extract up to where it would be delivered, or gives what is a reason against that."""
    options = replace(settings.options, preview=settings.preview_rows, progress=progress)
    recording = None
    if past is not None and options.only_new and is_database(paths.extract):
        delivered = past.newest(series_of(paths.extract), paths.extract)
        options = replace(options, delivered=delivered)
    if past is not None:
        recording, options = looking_on(past, recipe, paths.extract, options, before)
    aside = None if settings.rehearse else paths.aside
    try:
        needs_file = settings.into_stdout or bool(paths.address)
        version = _version_of(paths.extract) if past is not None else ""
        prepared = recipe.prepare(paths.extract, sink, aside, options, needs_file)
        prepared.result.summary.version = version
        return recording, prepared
    except Exception as error:
        return recording, refusal_of(error)


def refused(refusal: Refusal, paths: OutputPaths, recording: Recording | None) -> Outcome:
    account = refusal_to_json(paths.extract, refusal)
    if recording is not None:
        recording.refused(paths.extract, account)
    return Outcome(account, int(refusal.code), refusal=refusal)


def delivered(
    cleaned: PreparedRun, paths: OutputPaths, settings: JobSettings, recording: Recording | None, place: str
) -> Outcome:
    """The account of an extract whose output is in its place, with the names of its files."""
    summary = cleaned.result.summary
    summary.rehearsal = settings.rehearse
    summary.output = "" if settings.rehearse else place
    if not settings.rehearse and paths.aside is not None:
        _account_for_aside(summary, paths.aside)
    summary.not_noted = settings.not_noted
    if recording is not None:
        recording.completed(summary)
        summary.not_noted = recording.trouble
    return Outcome(summary.to_json(), ExitCode.NOT_NOTED if summary.not_noted else 0, cleaned.result)


def _account_for_aside(summary: Summary, aside: Path) -> None:
    if summary.balance.set_aside:
        summary.aside = str(aside)
    elif aside.exists():
        summary.warnings.append(f"{aside} is of an earlier run: this one set no rows aside")


def skipped(paths: OutputPaths, past: RecipeHistory | None, append: bool = False) -> Outcome | None:
    """The outcome of an extract whose content was delivered before, with `append` to its output; None where not."""
    behind = paths.output if append else None
    if past is None:
        return None
    account = None
    if behind is None and (version := _version_of(paths.extract)):  # so that it need not be read
        account = past.delivered_version(series_of(paths.extract), paths.extract, version)
    account = account or past.delivered_before(paths.extract, behind)
    return Outcome(account, 0) if account else None


def _version_of(extract: str) -> str:
    """What the place of a file elsewhere says of its content; empty where it says nothing, or cannot be asked."""
    file, _ = split_address(extract)
    if not is_remote(file):
        return ""
    from mangler.formats.remote.listing import version_of

    try:
        return version_of(file)
    except Refusal:  # reported when it is read
        return ""
