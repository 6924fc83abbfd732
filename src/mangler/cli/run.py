"""`mangler run`: cleans extracts with a recipe."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from mangler.cli.answering import answering, show_json, show_line, show_refusal
from mangler.cli.completion import complete_extracts, complete_recipes

if TYPE_CHECKING:
    from mangler.cli.places import Place
    from mangler.engine.recipe import Recipe, Result
    from mangler.engine.running import RunOptions

PREVIEW_ROWS = 10


@answering
def run(
    recipe: Annotated[
        Path,
        typer.Argument(
            help="The recipe, a .mangler file.", show_default=False, autocompletion=complete_recipes
        ),
    ],
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
    history: Annotated[
        Path | None,
        typer.Option(
            metavar="PATH", help="Where runs are noted; by default .mangler/history.db beside the recipe."
        ),
    ] = None,
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
    quiet: Annotated[
        bool, typer.Option("--quiet", help="Show no summary and no progress, only errors.")
    ] = False,
    json: Annotated[
        bool, typer.Option("--json", help="Give the summary as JSON on standard output, for machines.")
    ] = False,
) -> int:
    """Clean extracts with a recipe.

    Every extract is delivered whole or not at all. The summary tells what each step did, and that every row
    read was delivered, dropped or set aside.

    Exit codes: 0 done; 1 an extract does not fit the recipe; 2 the recipe or the command line is wrong;
    3 a file cannot be read or written; 130 interrupted.
    """
    import sys

    from mangler.cli.memory import keep_freed_memory
    from mangler.cli.parameters import memory_of, named_values
    from mangler.cli.places import extracts_of, make_folders, plan_places
    from mangler.engine.recipe import Recipe
    from mangler.engine.running import RunOptions
    from mangler.language.mistake import Refusal, wrong_recipe

    keep_freed_memory()
    budget = memory_of(memory)
    if to is None and sys.stdout.isatty():
        rehearse = True
    into_stdout = not rehearse and to in (None, "-")
    if json and into_stdout:
        raise wrong_recipe(
            "--json and the table cannot both take standard output", "Name a file for the table: --to."
        )
    if files.count("-") > 1:
        raise wrong_recipe("standard input can be read once", "Name - once among the extracts.")
    if only_new and (rehearse or rows is not None):
        raise wrong_recipe(
            "--only-new is about whole extracts that are delivered",
            "Name a place with --to, and leave out --rehearse and --rows.",
        )
    files = extracts_of(files)
    places = _rehearsed(files, aside) if rehearse else plan_places(files, to, aside)
    try:
        loaded = Recipe.load(recipe, named_values(parameters))
    except Refusal as refusal:
        if json:
            _print_json(str(recipe), [], refusal)
        raise
    if not rehearse:
        make_folders(places, to, aside)
    options = RunOptions(rows=rows, memory=budget, strict=strict)
    past = None
    if not rehearse and rows is None:
        from mangler.cli.past_runs import past_runs
        from mangler.library import looking_on

        past = past_runs(loaded, recipe, history, needed=only_new or history is not None, quiet=quiet)
    codes, accounts = [], []
    for place in places:
        if only_new and past is not None and (account := past.delivered_before(place.extract)):
            codes.append(0)
            accounts.append(account)
            if not json and not quiet:
                show_line(f"{place.extract} is passed over: {account['message']}")
            continue
        recording, own = (None, options) if past is None else looking_on(past, loaded, place.extract, options)
        account, code = _run_one(loaded, place, own, rehearse, into_stdout, quiet, json)
        if recording is not None and code:
            recording.refused(place.extract, account)
        accounts.append(account)
        codes.append(code)
    if json:
        _print_json(str(recipe), accounts, None)
    elif len(places) > 1 and not quiet:
        show_line(_how_many(accounts, codes, rehearse))
    return max(codes)


def _how_many(accounts: list[dict[str, Any]], codes: list[int], rehearse: bool) -> str:
    """What became of several extracts."""
    before = sum("delivered_before" in account for account in accounts)
    done, verb = codes.count(0) - before, "rehearsed" if rehearse else "delivered"
    told = f"{len(codes)} extracts: {done} {verb}, {len(codes) - done - before} not {verb}"
    return f"{told}, {before} passed over" if before else told


def _rehearsed(files: list[str], aside: str | None) -> list[Place]:
    from mangler.cli.places import Place

    return [Place(extract, None, Path(aside) if aside else None) for extract in files]


def _run_one(
    recipe: Recipe,
    place: Place,
    options: RunOptions,
    rehearse: bool,
    into_stdout: bool,
    quiet: bool,
    json: bool,
) -> tuple[dict[str, Any], int]:
    """Runs one extract; its account for `--json`, and its exit code. A refusal is shown, not raised."""
    from mangler.cli.progress import ProgressBar, size_of
    from mangler.engine.destination import DelimitedOutput
    from mangler.engine.summary import refusal_to_json
    from mangler.language.mistake import Refusal

    silent = quiet or json
    bar = ProgressBar(place.extract, size_of(place.extract), wanted=not silent)
    preview = PREVIEW_ROWS if rehearse and not silent else 0
    options = replace(options, preview=preview, progress=bar)
    try:
        result = recipe.clean(
            place.extract,
            DelimitedOutput(place.output, rehearse),
            None if rehearse else place.aside,
            options,
            needs_aside_file=into_stdout,
        )
    except Refusal as refusal:
        bar.close()
        show_line(f"{place.extract} is not delivered:")
        show_refusal(refusal)
        return refusal_to_json(place.extract, refusal), int(refusal.code)
    finally:
        bar.close()
    summary = result.summary
    summary.rehearsal = rehearse
    summary.output = "" if rehearse else str(place.output) if place.output else "standard output"
    if not rehearse and place.aside is not None:
        _account_for_aside(result, place.aside)
    if options.recorder is not None:
        options.recorder.completed(summary)
    if not silent:
        _show(result, rehearse)
    return summary.to_json(), 0


def _account_for_aside(result: Result, aside: Path) -> None:
    if result.summary.balance.set_aside:
        result.summary.aside = str(aside)
    elif aside.exists():
        result.summary.warnings.append(f"{aside} is of an earlier run: this one set no rows aside")


def _show(result: Result, rehearse: bool) -> None:
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


def _print_json(recipe: str, accounts: list[dict[str, Any]], refusal: Any) -> None:
    from mangler.engine.summary import mistakes_to_json

    answer: dict[str, Any] = {"recipe": recipe, "extracts": accounts}
    if refusal is not None:
        answer["mistakes"] = mistakes_to_json(refusal)
    show_json(answer)
