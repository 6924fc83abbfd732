"""`mangler run`: cleans extracts with a recipe."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from mangler.cli.answering import show_json, show_line
from mangler.cli.completion import complete_extracts
from mangler.cli.parameters import FilesUnder, HistoryPlace, RecipeFile

if TYPE_CHECKING:
    from mangler.engine.run.linked_recipe import LinkedRecipe
    from mangler.history.recording import RecipeHistory
    from mangler.jobs.outcome import Outcome


def run(
    recipe: RecipeFile,
    files: Annotated[
        list[str],
        typer.Argument(
            metavar="FILE...",
            help="The extracts: files, folders, patterns in quotes as 'extracts/*.csv'; - is standard input.",
            show_default=False,
            autocompletion=complete_extracts,
        ),
    ],
    to: Annotated[
        str | None,
        typer.Option(
            metavar="PATH",
            help="Where the cleaned table goes: a file or, for several extracts, a folder. Without it the table"
            " goes into a pipe; on a terminal the run is rehearsed.",
        ),
    ] = None,
    aside: Annotated[
        str | None,
        typer.Option(
            metavar="PATH", help="Where rows set aside go. By default beside the output, as NAME.aside.csv."
        ),
    ] = None,
    rehearse: Annotated[
        bool, typer.Option("--rehearse", help="Show the summary and the first cleaned rows; write nothing.")
    ] = False,
    strict: Annotated[
        bool,
        typer.Option(
            "--strict", help="Any row set aside and any warning keeps an extract from being delivered."
        ),
    ] = False,
    only_new: Annotated[
        bool,
        typer.Option(
            "--only-new",
            help="Pass over extracts that this recipe has delivered before, known by their content and not by name.",
        ),
    ] = False,
    history: HistoryPlace = None,
    files_under: FilesUnder = None,
    parameters: Annotated[
        list[str] | None,
        typer.Option(
            "--set",
            metavar="NAME=VALUE",
            help="A value for a parameter of the recipe; several times for several.",
        ),
    ] = None,
    rows: Annotated[
        int | None, typer.Option(metavar="N", min=1, help="Read only the first N rows of each extract.")
    ] = None,
    memory: Annotated[
        str | None,
        typer.Option(
            metavar="SIZE",
            help="Memory that steps may take which must see all rows, as 500MB or 2GB; beyond it rows go to temporary"
            " files. By default half of what the machine has.",
        ),
    ] = None,
    together: Annotated[
        bool,
        typer.Option(
            "--together",
            help="All extracts into one output, the file that --to names: each is cleaned by itself, and its rows"
            " follow those of the one before. Columns stand in the order in which they first come; null stands where an"
            " extract has none. Rows set aside go to a file for each extract, NAME.EXTRACT.aside.csv.",
        ),
    ] = False,
    workers: Annotated[
        int,
        typer.Option(
            metavar="N",
            min=1,
            max=256,
            help="How many extracts are cleaned at once, each by a process of its own.",
        ),
    ] = 1,
    quiet: Annotated[
        bool, typer.Option("--quiet", help="Show no summary and no progress, only errors.")
    ] = False,
    json: Annotated[
        bool, typer.Option("--json", help="Give the summary as JSON on standard output, for machines.")
    ] = False,
) -> int:
    """Clean extracts with a recipe.

    Every extract is delivered whole or not at all; one that is refused does not stop the others. The summary tells
    what each step did, and that every row read was delivered, dropped or set aside.

    Exit codes: 0 done; 1 an extract does not fit the recipe; 2 the recipe or the command line is wrong;
    3 a file cannot be read or written; 4 delivered, but not noted in the history; 70 a fault of Mangler;
    130, 143 or 129 ended by a signal.
    """
    import sys

    from mangler.cli.parameters import memory_of, named_values
    from mangler.cli.views.run_view import PREVIEW_ROWS, RunView
    from mangler.cli.worker import prepare_worker
    from mangler.engine.run.linked_recipe import LinkedRecipe
    from mangler.engine.run.options import RunOptions
    from mangler.history.store import beside
    from mangler.jobs.freed_memory import keep_freed_memory
    from mangler.jobs.job import Job, run_job
    from mangler.jobs.outcome import JobSettings
    from mangler.jobs.output_paths import (
        OutputPaths,
        exchanged,
        extracts_of,
        make_folders,
        plan_outputs,
        plan_together,
        refuse_lost_files,
    )
    from mangler.language.mistake import Refusal, worst_of

    keep_freed_memory()
    budget = memory_of(memory)
    rehearse = rehearse or (to is None and sys.stdout.isatty())
    into_stdout = not rehearse and to in (None, "-")
    _refuse_what_does_not_go_together(
        files, json and into_stdout, only_new and (rehearse or rows is not None), together, workers
    )
    files = extracts_of(files)
    if rehearse:
        all_paths = [OutputPaths(extract, None, Path(aside) if aside else None) for extract in files]
    else:
        all_paths = plan_together(files, to, aside, only_new) if together else plan_outputs(files, to, aside)
    values = named_values(parameters)
    try:
        loaded = LinkedRecipe.load(recipe, values, files_under)
    except Refusal as refusal:
        refusal = exchanged(refusal, "run", recipe, files)
        if json:
            _print_json(str(recipe), [], refusal)
        raise refusal from None
    if not rehearse:
        refuse_lost_files(loaded, all_paths, history or beside(recipe))
        make_folders(all_paths, to, aside)
    past, trouble = None, ""
    if not rehearse and rows is None:
        past, trouble = _past_runs(loaded, recipe, history, only_new or history is not None, quiet)
    options = RunOptions(rows=rows, memory=budget, strict=strict, keep_aside=False)
    silent = quiet or json
    preview = PREVIEW_ROWS if rehearse and not silent else 0
    settings = JobSettings(options, rehearse, into_stdout, preview, trouble)
    job = Job(loaded, recipe, all_paths, settings, past, only_new, together, workers, prepare_worker)
    view = RunView(all_paths, workers > 1 and len(all_paths) > 1 and not rehearse, rehearse, silent)
    try:
        outcomes = run_job(job, view)
    finally:
        view.close()
    if json:
        _print_json(str(recipe), [outcome.account for outcome in outcomes], None)
    elif len(all_paths) > 1 and not quiet:
        show_line(_how_many(outcomes, rehearse, f" together in {to}" if together and not into_stdout else ""))
    return worst_of(outcome.code for outcome in outcomes)


def _past_runs(
    loaded: LinkedRecipe, recipe: Path, path: Path | None, needed: bool, quiet: bool
) -> tuple[RecipeHistory | None, str]:
    """The recipe's history; None where none can be used and nobody asked for one.

    Then, why a run is not noted in a history that is there; empty where none can be made.
    """
    import os

    from mangler.history.recording import RecipeHistory
    from mangler.history.store import beside
    from mangler.language.mistake import Refusal

    where = path or beside(recipe)
    try:
        return RecipeHistory.open(where, recipe, loaded.digest), ""
    except Refusal as refusal:
        if needed:
            raise
        why, is_there = refusal.mistakes[0].message, os.path.lexists(where)
        if not quiet:
            show_line(f"No history is kept: {why}.")
        return None, why if is_there else ""


def _refuse_what_does_not_go_together(
    files: list[str], two_answers: bool, new_in_part: bool, together: bool, workers: int
) -> None:
    from mangler.language.mistake import wrong_recipe

    if two_answers:
        raise wrong_recipe(
            "options-conflict",
            "--json and the table cannot both take standard output",
            "Name a file for the table: --to.",
        )
    if files.count("-") > 1:
        raise wrong_recipe(
            "extract-twice", "standard input can be read once", "Name - once among the extracts."
        )
    if new_in_part:
        raise wrong_recipe(
            "options-conflict",
            "--only-new is about whole extracts that are delivered",
            "Name a place with --to, and leave out --rehearse and --rows.",
        )
    if workers > 1 and together:
        raise wrong_recipe(
            "options-conflict",
            "--together writes one output, which one process does",
            "Leave out --workers, or --together.",
        )
    if workers > 1 and "-" in files and len(files) > 1:
        raise wrong_recipe(
            "options-conflict",
            "standard input cannot be shared among --workers",
            "Run it by itself, or leave out --workers.",
        )


def _how_many(outcomes: list[Outcome], rehearse: bool, where: str) -> str:
    """What became of several extracts."""
    before = sum(outcome.skipped for outcome in outcomes)
    done = sum(outcome.delivered for outcome in outcomes)
    verb = "rehearsed" if rehearse else "delivered"
    told = f"{len(outcomes)} extracts: {done} {verb}{where * (done > 0 and not rehearse)}"
    told += f", {len(outcomes) - done - before} not {verb}"
    return f"{told}, {before} passed over" if before else told


def _print_json(recipe: str, accounts: list[dict[str, Any]], refusal: Any) -> None:
    from mangler.engine.run.summary import mistakes_to_json

    answer: dict[str, Any] = {"recipe": recipe, "extracts": accounts}
    if refusal is not None:
        answer["mistakes"] = mistakes_to_json(refusal)
    show_json(answer)
