"""`mangler demo`: the sample extracts and recipe, and what a run makes of them."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

if TYPE_CHECKING:
    from rich.console import Console

    from mangler.engine.run.summary import Summary
    from mangler.jobs.output_paths import OutputPaths

WEEK_19 = "clayworks-week-19.csv"
WEEK_20 = "clayworks-week-20.csv"
WEEK_21 = "clayworks-week-21.xlsx"
FIXED = (
    (
        'read sheet "Log" merged repeat delimiter ";" nulls "", "tbc"',
        'read sheet "Log" merged repeat nulls "", "tbc", "pending"',
    ),
    ('nullify "-", "n/a" in result anycase', 'nullify "-", "n/a", "tba" in result anycase'),
)
"""Lines of the recipe, and what happens to them for week 20: another delimiter, and two words that nobody knew."""
TOO_MUCH = ",see above"
"""The field that one row of week 20 has too many."""
SHOWN = ("clayworks-week-18.csv", "clayworks-week-19.csv", "quayside-week-19.csv")


def demo(
    folder: Annotated[Path, typer.Argument(help="Where the example goes; it must not be there yet.")] = Path(
        "kiln-log"
    ),
    rows: Annotated[
        int, typer.Option(metavar="N", min=1, max=100_000_000, help="Rows of each sample extract.")
    ] = 60,
) -> int:
    """Write a made-up example, extracts and recipe, and clean it, saying what is done: two weeks, a third that has
    drifted, which is caught, corrected and run, and a fourth that comes as a workbook; with pages that report it.
    """
    from mangler.cli.screen import error_console
    from mangler.language.mistake import file_trouble, reason
    from mangler.sample.generate import write_sample

    if folder.exists():
        raise file_trouble(
            "file-exists", f"{folder} is there already", "Name another folder: mangler demo FOLDER"
        )
    try:
        folder.mkdir()
        write_sample(folder, rows)
        (folder / "clean").mkdir()
    except OSError as error:
        raise file_trouble("file-not-written", f"{folder} cannot be written: {reason(error)}") from None
    console = error_console()
    console.print(f"Wrote {folder}/extracts, kiln logs as they were typed on the day,")
    console.print(f"and {folder}/kiln-log.mangler, the recipe that cleans them. Weeks 18 and 19:")
    _run(console, folder, folder / "kiln-log.mangler", [f"extracts/{name}" for name in SHOWN], whole=True)
    _show_drift(console, folder)
    results = _fix_and_run(console, folder)
    _run_workbook(console, folder)
    _report(console, folder, results)
    _show_what_to_try(console, folder)
    return 0


def _show_what_to_try(console: Console, folder: Path) -> None:
    """Commands to go on with: a look at a file, a step, and the recipe's tests."""
    week = f"{folder}/extracts/clayworks-week-19.csv"
    console.print()
    console.print("Now try:")
    for command in (
        f"mangler profile {week}",
        f"mangler try {week} 'trim studio, notes squeeze'",
        f"mangler test {folder}/kiln-log.mangler",
    ):
        console.print(f"  {command}", style="bold", soft_wrap=True)


def _report(console: Console, folder: Path, week_20: Summary) -> None:
    """Pages about week 20, and where a column of the output comes from."""
    from mangler.cli.reports.comparison_report import comparison_page
    from mangler.cli.reports.picture import write_picture
    from mangler.cli.reports.run_report import run_page
    from mangler.cli.reports.samples import samples_of
    from mangler.cli.reports.writing import write_report
    from mangler.cli.views.explanation_view import show_columns
    from mangler.engine.run.linked_recipe import LinkedRecipe
    from mangler.insight.comparison.comparing import compare
    from mangler.insight.explanation.explanation import explain

    reports = folder / "reports"
    reports.mkdir()
    fixed, extract = folder / "kiln-log-from-week-20.mangler", f"{folder}/extracts/{WEEK_20}"
    recipe = LinkedRecipe.load(fixed)
    command = f"mangler run {fixed} {extract} --to {folder}/clean/ --report {reports}/week-20.html"
    source = recipe.parsed.source
    samples = {extract: samples_of(recipe, extract)}
    page = run_page(recipe.title, [week_20.to_json()], samples, (source.name, source.text), command)
    write_report(reports / "week-20.html", page)
    weeks = f"{folder}/extracts/{WEEK_19}", extract
    against = f"mangler compare {weeks[0]} {weeks[1]} --report {reports}/weeks-19-and-20.html"
    write_report(reports / "weeks-19-and-20.html", comparison_page(compare(*weeks), against))
    told = explain(LinkedRecipe.load(folder / "kiln-log.mangler").parsed, None)
    write_picture(reports / "columns.svg", told)
    asked = f"mangler explain {folder}/kiln-log.mangler --columns share --picture {reports}/columns.svg"
    console.print()
    console.print(f"Pages about it are in {reports}, to be opened in a browser. They are made with:")
    console.print(f"  {command}", style="bold", soft_wrap=True)
    console.print(f"  {against}", style="bold", soft_wrap=True)
    console.print()
    console.print(
        "What the recipe does, in words, is told by mangler explain; here of one column of the output:"
    )
    console.print(f"  {asked}", style="bold", soft_wrap=True)
    show_columns(console, told, ["share"])


def _run_workbook(console: Console, folder: Path) -> None:
    """Week 21 comes as a workbook: the same recipe reads it."""
    recipe = folder / "kiln-log.mangler"
    console.print()
    console.print(
        "Week 21 comes as a workbook, and the same recipe reads it. The title above its header, merged cells"
    )
    console.print("and real dates are no trouble; what is not as in the weeks before is reported:")
    console.print(
        f"  mangler run {recipe} {folder}/extracts/{WEEK_21} --to {folder}/clean/",
        style="bold",
        soft_wrap=True,
    )
    _run(console, folder, recipe, [f"extracts/{WEEK_21}"])


def _run(
    console: Console, folder: Path, path: Path, files: list[str], whole: bool = False
) -> list[tuple[OutputPaths, Summary]]:
    """Runs a recipe over files of the folder, as mangler run does; of the first one the whole summary is shown."""
    from mangler.cli.views.summary_view import show_balance, show_summary
    from mangler.engine.run.destination import FileOutput
    from mangler.engine.run.linked_recipe import LinkedRecipe
    from mangler.engine.run.options import RunOptions
    from mangler.history.recording import RecipeHistory
    from mangler.history.store import beside
    from mangler.jobs.output_paths import plan_outputs
    from mangler.library import looking_on

    recipe = LinkedRecipe.load(path)
    past = RecipeHistory.open(beside(path), path, recipe.digest)
    all_paths = plan_outputs([str(folder / name) for name in files], f"{folder / 'clean'}/", None)
    done = []
    for number, paths in enumerate(all_paths):
        console.print()
        recording, options = looking_on(past, recipe, paths.extract, RunOptions())
        result = recipe.clean(paths.extract, FileOutput(paths.output), paths.aside, options)
        result.summary.output = str(paths.output)
        if result.summary.balance.set_aside:
            result.summary.aside = str(paths.aside)
        recording.completed(result.summary)
        (show_summary if whole and number == 0 else show_balance)(console, result.summary)
        done.append((paths, result.summary))
    past.history.close()
    return done


def _show_drift(console: Console, folder: Path) -> None:
    """Week 20 compared with the weeks before it."""
    from mangler.cli.commands.check import before
    from mangler.cli.views.check_view import show_checked
    from mangler.engine.run.linked_recipe import LinkedRecipe
    from mangler.insight.fingerprint.checking import check_extract

    path, extract = folder / "kiln-log.mangler", str(folder / "extracts" / WEEK_20)
    recipe = LinkedRecipe.load(path)
    console.print()
    console.print("Week 20 has drifted. What has changed, and which steps that endangers:")
    console.print(f"  mangler check {path} {extract}", style="bold", soft_wrap=True)
    show_checked(console, check_extract(recipe, extract, before(recipe, path, extract, None)))


def _fix_and_run(console: Console, folder: Path) -> Summary:
    """The recipe fixed for week 20, and the row that it sets aside fixed and run as well."""
    fixed = folder / "kiln-log-from-week-20.mangler"
    text = (folder / "kiln-log.mangler").read_text("utf-8")
    console.print()
    console.print(f"Corrected, in {fixed}:")
    for old, new in FIXED:
        text = text.replace(old, new)
        console.print(f"  - {old}", style="red", soft_wrap=True)
        console.print(f"  + {new}", style="green", soft_wrap=True)
    fixed.write_text(text, "utf-8")
    [(paths, summary)] = _run(console, folder, fixed, [f"extracts/{WEEK_20}"])
    if paths.aside is None or not paths.aside.exists():
        return summary
    late = folder / "corrected-row.csv"
    late.write_text(paths.aside.read_text("utf-8").replace(TOO_MUCH, ""), "utf-8", newline="")
    console.print()
    console.print(
        f"The row that was set aside has a field too many; without it, in {late}, it runs with the same recipe:"
    )
    _run(console, folder, fixed, [late.name])
    return summary
