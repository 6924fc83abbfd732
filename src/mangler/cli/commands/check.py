"""`mangler check`: what no longer fits, before anything is run."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from mangler.cli.answering import show_json, show_refusal
from mangler.cli.completion import complete_extracts
from mangler.cli.parameters import FilesUnder, HistoryPlace, RecipeFile, ReportPlace

if TYPE_CHECKING:
    from mangler.cli.reports.page import Page
    from mangler.engine.run.linked_recipe import LinkedRecipe
    from mangler.insight.fingerprint.checking import Checked
    from mangler.insight.fingerprint.fingerprint import Fingerprint


FilesArgument = Annotated[
    list[str] | None,
    typer.Argument(
        metavar="[FILE...]",
        help="The extracts: files, folders, patterns in quotes; none checks the recipe alone.",
        show_default=False,
        autocompletion=complete_extracts,
    ),
]
JsonOption = Annotated[
    bool, typer.Option("--json", help="Give the findings as JSON on standard output, for machines.")
]


def check(
    recipe: RecipeFile,
    files: FilesArgument = None,
    history: HistoryPlace = None,
    files_under: FilesUnder = None,
    report: ReportPlace = None,
    json: JsonOption = False,
) -> int:
    """Say what of an extract no longer fits a recipe, the most harmful first. Nothing is written.

    The recipe is run on each file without writing anything, and the file is compared with the last runs over files of
    the same name except for its digits: columns gone, new, renamed or moved, another delimiter or encoding, values
    never seen in a column of few values, more parts than ever, more nulls, cells written otherwise, numbers out of
    range.
    Each finding names the steps that it endangers. mangler run warns of the same.

    Exit codes: 0 all fits; 1 something does not; 2 the recipe or the command line is wrong; 3 a file cannot be read.
    """
    from mangler.cli.reporting import refuse_report_over, write_page
    from mangler.cli.screen import answer_console
    from mangler.cli.views.check_view import show_checked
    from mangler.engine.run.linked_recipe import LinkedRecipe
    from mangler.engine.run.overwriting import files_of
    from mangler.engine.run.summary import mistakes_to_json
    from mangler.jobs.extracts import extracts_of
    from mangler.jobs.output_paths import exchanged
    from mangler.language.mistake import Refusal, worst_of

    try:
        loaded = LinkedRecipe.load(recipe, None, files_under)
    except Refusal as refusal:
        refusal = exchanged(refusal, "check", recipe, files or [])
        if json:
            show_json({"recipe": str(recipe), "extracts": [], "mistakes": mistakes_to_json(refusal)})
        raise refusal from None
    codes: list[int] = [0]
    accounts: list[dict[str, Any]] = []
    all_checked: list[Checked] = []
    extracts = extracts_of(files or [])
    refuse_report_over(report, lambda: [*((one, "an extract") for one in extracts), *files_of(loaded.parsed)])
    for file in extracts:
        try:
            checked = _check(loaded, recipe, file, history, wanted=not json)
        except Refusal as refusal:
            codes.append(int(refusal.code))
            accounts.append({"extract": file, "mistakes": mistakes_to_json(refusal), "findings": []})
            if not json:
                show_refusal(refusal)
            continue
        codes.append(checked.code)
        accounts.append(_to_json(checked))
        all_checked.append(checked)
        if not json:
            show_checked(answer_console(), checked)
    write_page(report, lambda command: _page(recipe, accounts, command))
    if json:
        show_json({"recipe": str(recipe), "extracts": accounts})
    else:
        _show_all(recipe, all_checked, len(extracts))
    return worst_of(codes)


def _show_all(recipe: Path, all_checked: list[Checked], extracts: int) -> None:
    """The verdict on all extracts; where there are none, on the recipe."""
    from mangler.cli.screen import answer_console
    from mangler.cli.views.check_view import show_all_checked

    if extracts > 1:
        show_all_checked(answer_console(), all_checked, extracts - len(all_checked))
    elif not extracts:
        message = f"{recipe} has no mistakes; whether an extract fits is checked with the extract."
        answer_console().print(message, soft_wrap=True)


def _page(recipe: Path, accounts: list[dict[str, Any]], command: str) -> Page:
    from mangler.cli.reports.check_report import check_page

    return check_page(str(recipe), accounts, command)


def _check(loaded: LinkedRecipe, recipe: Path, file: str, history: Path | None, wanted: bool) -> Checked:
    from mangler.cli.progress import ProgressBar
    from mangler.insight.fingerprint.checking import check_extract
    from mangler.jobs.events import size_of

    bar = ProgressBar(file, size_of(file), wanted)
    try:
        return check_extract(loaded, file, before(loaded, recipe, file, history), bar)
    finally:
        bar.close()


def before(recipe: LinkedRecipe, path: Path, file: str, history: Path | None) -> list[Fingerprint]:
    """The fingerprints of earlier runs; none where there is no history, unless one was named."""
    from contextlib import closing

    from mangler.history.recording import RecipeHistory
    from mangler.history.store import beside
    from mangler.library import earlier

    if history is None and not beside(path).exists():
        return []
    past = RecipeHistory.open(history or beside(path), path, recipe.digest, make=False)
    with closing(past.history):
        return earlier(past, file)


def _to_json(checked: Checked) -> dict[str, Any]:
    from mangler.engine.run.summary import mistakes_to_json
    from mangler.language.mistake import ExitCode, Refusal

    return {
        "extract": checked.extract,
        "earlier_runs": checked.earlier,
        "set_aside": checked.set_aside,
        "warnings": list(checked.warnings),
        "mistakes": mistakes_to_json(Refusal(checked.mistakes, ExitCode.ANSWER_IS_NO)),
        "findings": [finding.to_json() for finding in checked.findings],
    }
