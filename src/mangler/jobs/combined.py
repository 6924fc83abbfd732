"""The extracts of a job into one output, which appears when all were read."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from mangler.engine.run.acceptance import refuse_if_strict
from mangler.engine.run.combined_output import WaitingRows, columns_lacking, schema_of_all
from mangler.engine.run.destination import FileOutput
from mangler.engine.run.linked_recipe import LinkedRecipe, PreparedRun, deliver
from mangler.engine.run.one_table import steps_alone, write_one_table
from mangler.engine.run.summary import Summary
from mangler.history.recording import RecipeHistory, Recording
from mangler.history.store import LAST
from mangler.insight.fingerprint.fingerprint import Fingerprint, series_of
from mangler.jobs.events import Finished, OnEvent, Progress, Started, size_of
from mangler.jobs.fault import refusal_of
from mangler.jobs.one_extract import delivered, prepare_one, refused, skipped, what_was_at
from mangler.jobs.outcome import JobSettings, Outcome
from mangler.jobs.output_paths import OutputPaths
from mangler.language.mistake import Refusal, extract_does_not_fit
from mangler.late_dataclass import dataclass
from mangler.library import earlier
from mangler.table.memory_budget import SpoolFile


@dataclass(frozen=True)
class _Waiting:
    """An extract that was cleaned, and waits for the others."""

    paths: OutputPaths
    recording: Recording | None
    cleaned: PreparedRun
    rows: WaitingRows

    @property
    def summary(self) -> Summary:
        return self.cleaned.result.summary


def clean_combined(
    recipe: LinkedRecipe,
    all_paths: Sequence[OutputPaths],
    settings: JobSettings,
    past: RecipeHistory | None,
    only_new: bool,
    to: Path | None,
    on_event: OnEvent,
) -> list[Outcome]:
    """The rows of the extracts that fit are in the output, extract after extract, or as one table.

    Each extract passes the first steps by itself; from the first that looks at more than one row on, all are one table.
    """
    alone = steps_alone(recipe, [paths.extract for paths in all_paths])
    settings = replace(settings, options=replace(settings.options, first_steps=alone))
    outcomes: dict[OutputPaths, Outcome] = {}
    waiting: list[_Waiting] = []
    earlier_here: dict[str, deque[Fingerprint]] = {}
    """Of each series the fingerprints of this run, the latest first."""
    file = SpoolFile()
    try:
        for paths in all_paths:
            if only_new and (outcome := skipped(paths, past, settings.append)):
                outcomes[paths] = outcome
                continue
            rows = WaitingRows(file)
            on_event(Started(paths.extract, size_of(paths.extract)))

            def before(paths: OutputPaths = paths) -> list[Fingerprint]:
                return _earlier(paths, earlier_here, past)

            def progress(done: int, bytes_read: int, extract: str = paths.extract) -> None:
                on_event(Progress(extract, done, bytes_read))

            recording, cleaned = prepare_one(recipe, paths, rows, settings, past, progress, before)
            if isinstance(cleaned, Refusal):
                outcomes[paths] = refused(cleaned, paths, recording)
            else:
                message = recording.fingerprint() if recording is not None else None
                fingerprint = Fingerprint.of_json(message) if message else None
                waiting.append(_Waiting(paths, recording, cleaned, rows))
                if fingerprint is not None:
                    own = earlier_here.setdefault(series_of(paths.extract), deque(maxlen=LAST))
                    own.appendleft(fingerprint)
        output = FileOutput(to, settings.rehearse, settings.append, all_paths[0].address)
        outcomes |= _deliver(recipe, waiting, outcomes, settings, past, output)
    finally:
        file.close()
        for one in waiting:
            one.cleaned.aside_file.discard()
    for paths in all_paths:
        on_event(Finished(paths.extract, outcomes[paths]))
    return [outcomes[paths] for paths in all_paths]


def _earlier(
    paths: OutputPaths, here: dict[str, deque[Fingerprint]], past: RecipeHistory | None
) -> list[Fingerprint]:
    """The last extracts of the same series, the latest first: those of this run too."""
    own = here.get(series_of(paths.extract), ())
    return [*own, *(earlier(past, paths.extract) if past is not None else [])][:LAST]


def _deliver(
    recipe: LinkedRecipe,
    waiting: Sequence[_Waiting],
    others: dict[OutputPaths, Outcome],
    settings: JobSettings,
    past: RecipeHistory | None,
    output: FileOutput,
) -> dict[OutputPaths, Outcome]:
    """What happens to the extracts that fit."""
    if not waiting:
        return {}
    to = output.path
    parts = [one.rows for one in waiting]
    names = schema_of_all([part.columns for part in parts]).names
    lacking = {one.paths.extract: columns_lacking(one.rows.names, names) for one in waiting}
    for one in waiting:
        one.summary.warnings += [lacking[one.paths.extract]] * bool(lacking[one.paths.extract])
    try:
        if settings.options.strict:
            _refuse_differences(others, lacking)
        together = write_one_table(recipe, parts, output, settings.options)
        together.output, together.rehearsal = output.place, settings.rehearse
        refuse_if_strict(together, settings.options.strict)
        replaced = "" if settings.rehearse else what_was_at(to, past)
        for one in waiting:
            one.summary.replaced, one.summary.appended = replaced, output.went_behind
            if settings.options.first_steps is not None:
                one.summary.together = together
                together.replaced, together.appended = replaced, output.went_behind
            elif one is waiting[-1]:  # what writing warns of is said once
                one.summary.warnings += together.warnings
        deliver([one.cleaned for one in waiting], output)
    except BrokenPipeError:
        raise
    except Exception as error:
        refusal = refusal_of(error)
        output.discard()
        return {one.paths: refused(refusal, one.paths, one.recording) for one in waiting}
    return {
        one.paths: delivered(one.cleaned, one.paths, settings, one.recording, output.place) for one in waiting
    }


def _refuse_differences(others: dict[OutputPaths, Outcome], lacking: dict[str, str]) -> None:
    """With --strict all extracts must fit, and give the same columns."""
    missing = [paths.extract for paths, outcome in others.items() if outcome.refusal is not None]
    if missing:
        raise extract_does_not_fit(
            "strict",
            f"the output would be without {', '.join(missing)}, which --strict does not allow",
            "Nothing is delivered. Correct what does not fit, leave it out, or run without --strict.",
        )
    differing = [f"    {extract}: {message}" for extract, message in lacking.items() if message]
    if differing:
        raise extract_does_not_fit(
            "strict",
            "the extracts differ in their columns, which --strict does not allow:\n" + "\n".join(differing),
            "Nothing is delivered. Let the recipe give all the same columns, or run without --strict.",
        )
