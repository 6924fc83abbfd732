"""`mangler run … --report FILE`: the report of a run."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from mangler.cli.answering import show_line, show_refusal
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.jobs.outcome import Outcome
from mangler.jobs.output_paths import OutputPaths
from mangler.language.mistake import ExitCode, Refusal

if TYPE_CHECKING:
    from mangler.insight.comparison.comparison import Comparison

MOST_SAMPLED = 4
"""Extracts that are opened once more for the cells of their first rows."""


def refuse_report_over(
    report: Path, recipe: LinkedRecipe, all_paths: Sequence[OutputPaths], history: Path
) -> None:
    """Refuses a report in the place of a file that the run reads or writes, before anything is run."""
    from mangler.cli.reports.writing import refuse_bad_place
    from mangler.engine.run.overwriting import files_of

    read = [
        *((one.extract, "an extract") for one in all_paths),
        *files_of(recipe.parsed),
        (history, "the history"),
    ]
    outputs = dict.fromkeys(one.output for one in all_paths if one.output is not None)
    asides = dict.fromkeys(one.aside for one in all_paths if one.aside is not None)
    written = (
        [(one, "the output") for one in outputs],
        [(one, "the file of rows set aside") for one in asides],
    )
    refuse_bad_place(report, [*read, *written[0], *written[1]])


def report_run(
    report: Path,
    recipe: LinkedRecipe,
    outcomes: Sequence[Outcome],
    against: Comparison | None,
    rehearsed: bool,
) -> int:
    """Writes the report; an exit code, that of a file that cannot be written where the report cannot."""
    from mangler.cli.reports import comparison_report
    from mangler.cli.reports.cells import name
    from mangler.cli.reports.page import Paragraph, Section
    from mangler.cli.reports.run_report import in_full, run_page
    from mangler.cli.reports.samples import samples_of
    from mangler.cli.reports.writing import write_report
    from mangler.cli.words import own_command

    shown = [one["extract"] for one in in_full([one.account for one in outcomes])]
    cleaned = [one for one in outcomes if one.result is not None and one.extract in shown][:MOST_SAMPLED]
    samples = {one.extract: samples_of(recipe, one.extract) for one in cleaned}
    further: list[Section] = []
    if against is not None:
        told = Paragraph(comparison_report.verdict(against))
        further = [
            Section(f"Compared with {name(against.before)}", [told]),
            *comparison_report.sections(against),
        ]
    source = recipe.parsed.source
    accounts = [one.account for one in outcomes]
    page = run_page(
        recipe.title, accounts, samples, (source.name, source.text), own_command(), further, rehearsed
    )
    try:
        write_report(report, page)
    except Refusal as refusal:  # what was delivered stays so
        show_line("The report is not written; what was delivered stays so.")
        show_refusal(refusal)
        return int(refusal.code)
    return ExitCode.DONE
