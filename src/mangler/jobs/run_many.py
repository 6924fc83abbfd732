"""`mangler.run_many`: several extracts from Python, as the command `mangler run` cleans them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import ExitStack, closing
from datetime import date
from pathlib import Path
from typing import Any

from mangler.addresses import without_password
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.memory import LEAST
from mangler.engine.run.options import RunOptions
from mangler.history.recording import RecipeHistory
from mangler.jobs.events import OnEvent, ignore
from mangler.jobs.extracts import extracts_of
from mangler.jobs.job import Job, run_job
from mangler.jobs.outcome import JobSettings, Outcome
from mangler.jobs.output_paths import (
    OutputPaths,
    make_folders,
    plan_appended,
    plan_combined,
    plan_outputs,
    refuse_lost_files,
)
from mangler.language.mistake import wrong_recipe
from mangler.library import workforce_of


def run_many(
    recipe: str | Path,
    extracts: Sequence[str | Path],
    to: str | Path | None = None,
    aside: str | Path | None = None,
    *,
    append: str | Path | None = None,
    together: bool = False,
    workers: int = 1,
    cluster: Any = None,
    only_new: bool = False,
    strict: bool = False,
    history: str | Path | None = None,
    parameters: Mapping[str, str] | None = None,
    files_under: str | Path | None = None,
    memory: int | None = None,
    run_date: date | None = None,
    on_event: OnEvent = ignore,
) -> list[Outcome]:
    """Cleans extracts with a recipe file, and says what happened to each, in their order.

    `extracts` are files, folders, or patterns such as `extracts/*.csv`. `to` is a folder, or with `together` the one
    file that holds them all as one table; `append`, in its place, is a file behind whose rows they go. Rows set aside
    go beside the output, or to the folder `aside`. `workers` is how many processes clean extracts at once;
    `cluster`, in its place, a Client of dask.distributed or the address of a scheduler. With `history`,
    the path of one, each extract is compared with the last runs and noted; `only_new` skips content that it knows as
    delivered. With `strict` any row set aside and any warning is a refusal. `parameters` are values for the recipe's
    own, `memory` is in bytes; `run_date` is the day that `run_date()` gives, today for None.

    An extract that is refused does not stop the others: its outcome has the refusal. A recipe or a path that is wrong
    for all of them is raised as a `Refusal`, and nothing is written. `on_event` is called when an extract is started,
    with its progress, and when it is finished.
    """
    _refuse_what_does_not_go_together(only_new, history is None, memory)
    path, beside = Path(recipe), None if aside is None else str(aside)
    place, plan = _plan(
        [without_password(str(extract)) for extract in extracts],
        None if to is None else without_password(str(to)),
        append,
        beside,
        together,
        only_new,
    )
    loaded = LinkedRecipe.load(path, parameters, files_under, run_date)
    refuse_lost_files(loaded, plan, None if history is None else Path(history))
    make_folders(plan, place, beside)
    settings = JobSettings(
        RunOptions(memory=memory, strict=strict, keep_aside=False, only_new=only_new),
        append=append is not None,
    )
    with ExitStack() as stack:
        past = None
        if history is not None:
            past = RecipeHistory.open(Path(history), path, loaded.digest)
            stack.enter_context(closing(past.history))
        job = Job(loaded, path, plan, settings, past, only_new, together, workers)
        if cluster is not None:
            job = job.with_workforce(stack.enter_context(workforce_of(cluster)))
        return run_job(job, on_event)


def _plan(
    extracts: list[str],
    to: str | Path | None,
    append: str | Path | None,
    beside: str | None,
    together: bool,
    only_new: bool,
) -> tuple[str, list[OutputPaths]]:
    """Where the rows go, and the files of each extract."""
    if (to is None) == (append is None):
        raise wrong_recipe(
            "missing-argument", "run_many needs one place for the rows", "Name it: to=PATH, or append=PATH."
        )
    files = extracts_of(extracts)
    if append is not None:
        return str(append), plan_appended(files, str(append), beside)
    if together:
        return str(to), plan_combined(files, str(to), beside, only_new)
    return str(to), plan_outputs(files, str(to), beside)


def _refuse_what_does_not_go_together(only_new: bool, without_history: bool, memory: int | None) -> None:
    if only_new and without_history:
        raise wrong_recipe(
            "missing-argument",
            "only_new needs a history: it knows what was delivered",
            "Name one: history=PATH.",
        )
    if memory is not None and memory < LEAST:
        raise wrong_recipe(
            "too-little-memory", f"memory={memory:,} is too little", f"Allow at least {LEAST:,} bytes."
        )
