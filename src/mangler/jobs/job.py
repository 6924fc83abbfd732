"""One job: extracts that are cleaned with one recipe, one by one, several at once, or into one output."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import ExitStack, closing
from dataclasses import replace
from pathlib import Path
from typing import Any

from mangler.addresses import is_database
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.history.recording import RecipeHistory
from mangler.jobs.events import OnEvent, ignore
from mangler.jobs.one_by_one import clean_one_by_one
from mangler.jobs.outcome import JobSettings, Outcome
from mangler.jobs.output_paths import OutputPaths
from mangler.language.mistake import wrong_recipe
from mangler.late_dataclass import dataclass
from mangler.steps import write as write_verb


@dataclass(frozen=True)
class Job:
    recipe: LinkedRecipe
    path: Path
    """Of the recipe."""
    all_paths: Sequence[OutputPaths]
    """The extracts, each with where its output goes."""
    settings: JobSettings
    past: RecipeHistory | None = None
    """Where runs are noted, and what earlier ones delivered; None where there is no history."""
    only_new: bool = False
    """Whether content that was delivered before is skipped."""
    together: bool = False
    """Whether all rows go into the output of the first extract."""
    workers: int = 1
    """How many processes clean extracts."""
    prepare_worker: Callable[[], None] | None = None
    """Called first in each of several processes."""

    def with_workforce(self, workforce: Any) -> Job:
        """The same job, whose large extracts are divided among others; None: among threads of this process."""
        options = replace(self.settings.options, workforce=workforce)
        return replace(self, settings=replace(self.settings, options=options))


def run_job(job: Job, on_event: OnEvent = ignore) -> list[Outcome]:
    """What happened to each extract, in their order. A refusal of one does not stop the others.

    `on_event` is called in the calling thread, or while one extract is cleaned, in the thread that reads it.
    """
    _refuse_one_table_after_the_other(job)
    appended = job.settings.append and not job.settings.rehearse and len(job.all_paths) > 1
    if job.together or appended:
        return _into_one(job, on_event)
    workforce = job.settings.options.workforce
    if workforce is not None and len(job.all_paths) > 1 and not job.settings.rehearse:
        from mangler.jobs.job_parts import JobParts
        from mangler.jobs.several_on_workforce import clean_several_on_workforce

        options = replace(job.settings.options, divides_small=True)
        settings = replace(job.settings, options=options)
        parts = JobParts(job.recipe, job.path, job.all_paths, settings, job.past, job.only_new)
        return clean_several_on_workforce(parts, 2 * workforce.threads, on_event)
    if job.workers > 1 and len(job.all_paths) > 1 and not job.settings.rehearse:
        from mangler.jobs.several_at_once import clean_several_at_once, shared_among
        from mangler.jobs.worker_process import WorkerSetup

        count = min(job.workers, len(job.all_paths))
        history = job.past.history.path if job.past is not None else None
        settings = shared_among(job.settings, count)
        setup = WorkerSetup(job.path, job.recipe, history, settings, job.prepare_worker)
        return clean_several_at_once(setup, job.all_paths, job.workers, job.past, job.only_new, on_event)
    return clean_one_by_one(job.recipe, job.all_paths, job.settings, job.past, job.only_new, on_event)


def _refuse_one_table_after_the_other(job: Job) -> None:
    """Several extracts into one table: each by itself would take the place of the one before."""
    write = write_verb.settings(job.recipe.parsed.only("write"))
    if (
        len(job.all_paths) < 2
        or not is_database(job.all_paths[0].address)
        or job.together
        or write.table_rows == "append"
    ):
        return
    raise wrong_recipe(
        "several-extracts-one-file",
        f"{len(job.all_paths)} extracts go to one table, each by itself",
        "Put their rows in together: --together. Or each behind the others: append behind the table in write.",
        write.spans.get("table"),
    )


def _into_one(job: Job, on_event: OnEvent) -> list[Outcome]:
    """All extracts into one output, one after the other; with several processes their work is divided among these."""
    from mangler.jobs.combined import clean_combined

    output = None if job.settings.rehearse else job.all_paths[0].output
    with ExitStack() as stack:
        if job.workers > 1 and job.settings.options.workforce is None and not job.settings.rehearse:
            from mangler.workforces.processes import Processes

            job = job.with_workforce(stack.enter_context(closing(Processes(job.workers, job.prepare_worker))))
        return clean_combined(
            job.recipe, job.all_paths, job.settings, job.past, job.only_new, output, on_event
        )
