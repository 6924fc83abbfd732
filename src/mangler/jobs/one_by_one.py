"""The extracts of a job one after the other, each into a file of its own."""

from __future__ import annotations

from collections.abc import Sequence

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.history.recording import RecipeHistory
from mangler.jobs.events import Finished, OnEvent, Progress, Started, size_of
from mangler.jobs.one_extract import clean_one, skipped
from mangler.jobs.outcome import JobSettings, Outcome
from mangler.jobs.output_paths import OutputPaths


def clean_one_by_one(
    recipe: LinkedRecipe,
    all_paths: Sequence[OutputPaths],
    settings: JobSettings,
    past: RecipeHistory | None,
    only_new: bool,
    on_event: OnEvent,
) -> list[Outcome]:
    """What happened to each extract, in their order."""
    outcomes = []
    for paths in all_paths:
        outcome = skipped(paths, past, settings.append) if only_new else None
        if outcome is None:
            on_event(Started(paths.extract, size_of(paths.extract)))

            def progress(rows: int, bytes_read: int, extract: str = paths.extract) -> None:
                on_event(Progress(extract, rows, bytes_read))

            outcome = clean_one(recipe, paths, settings, past, progress)
        on_event(Finished(paths.extract, outcome))
        outcomes.append(outcome)
    return outcomes
