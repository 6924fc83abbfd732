"""`mangler history`: past runs."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from mangler.cli.answering import show_json
from mangler.cli.completion import complete_runs
from mangler.cli.parameters import ReportPlace

if TYPE_CHECKING:
    from mangler.cli.reports.page import Page
    from mangler.history.store import PastRun


WordsArgument = Annotated[
    list[str] | None,
    typer.Argument(
        metavar="[RECIPE] | show N",
        help="A recipe, whose runs are listed; or show and the number of a run.",
        show_default=False,
        autocompletion=complete_runs,
    ),
]
PathOption = Annotated[
    Path | None,
    typer.Option(
        "--history",
        metavar="PATH",
        help="The history; by default .mangler/history.db beside the recipe, or here where none is named.",
    ),
]
MostOption = Annotated[
    int, typer.Option("--most", metavar="N", min=1, max=1_000_000, help="How many runs to list.")
]
JsonOption = Annotated[
    bool, typer.Option("--json", help="Give the runs as JSON on standard output, for machines.")
]


def history(
    words: WordsArgument = None,
    path: PathOption = None,
    most: MostOption = 20,
    report: ReportPlace = None,
    json: JsonOption = False,
) -> int:
    """List past runs, the latest first, or show one with its summary.

    A run that delivers, or is refused, is noted in .mangler/history.db beside its recipe: the recipe and the extract
    by their content, the summary, the warnings. A run that was killed is recognised by what is in the output's place.

    Exit codes: 0 done; 1 there is no such run; 2 the command line is wrong; 3 the history cannot be read.
    """
    from mangler.cli.reporting import refuse_report_over, write_page
    from mangler.file_names import readable
    from mangler.history.store import History, beside
    from mangler.language.mistake import extract_does_not_fit, file_trouble

    recipe, number = _meant(words or [])
    if recipe is not None and not recipe.is_file():
        raise file_trouble(
            "no-such-file",
            f"the recipe {recipe} does not exist",
            "Without a recipe the history here is shown.",
        )
    where = path or beside(recipe or Path("here"))
    refuse_report_over(
        report, lambda: [(where, "the history"), *[(one, "the recipe") for one in (recipe,) if one]]
    )
    opened = History.open(where, make=False)
    try:
        if number is None:
            runs = opened.runs(readable(recipe.absolute()) if recipe else None, most)
        else:
            found = opened.run(number)
            if found is None:
                raise extract_does_not_fit(
                    "unknown-run", f"there is no run {number}", "mangler history lists them."
                )
            runs = [found]
    finally:
        opened.close()
    write_page(report, lambda command: _page(runs, opened.path, number is not None, command))
    if json:
        show_json({"runs": [run.to_json() for run in runs]})
    else:
        _show(runs, number is not None, opened.path)
    return 0


def _meant(words: list[str]) -> tuple[Path | None, int | None]:
    """The recipe and the number of the run that the words mean."""
    from mangler.language.mistake import wrong_recipe

    if words and words[0] == "show":
        if len(words) != 2 or not words[1].isdecimal() or len(words[1]) > 18:
            raise wrong_recipe(
                "missing-argument", "history show needs the number of a run", "Write mangler history show 3."
            )
        return None, int(words[1])
    if len(words) > 1:
        raise wrong_recipe(
            "not-a-recipe",
            f"{' '.join(words)} is not a recipe",
            "Write mangler history RECIPE, or mangler history show 3.",
        )
    return (Path(words[0]) if words else None), None


def _page(runs: list[PastRun], path: Path, one: bool, command: str) -> Page:
    """The runs over time; of one run what it reported, without the cells of its extract, which may be another now."""
    from mangler.cli.reports.history_report import history_page, past_run_page

    return past_run_page(runs[0], command) if one else history_page(runs, path, command)


def _show(runs: list[PastRun], whole: bool, path: Path) -> None:
    from mangler.cli.paging import paged
    from mangler.cli.screen import answer_console
    from mangler.cli.views.history_view import show_run, show_runs

    with paged(answer_console()):
        if whole:
            show_run(answer_console(), runs[0])
        else:
            show_runs(answer_console(), runs, path)
