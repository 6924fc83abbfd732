"""`mangler profile`: what is wrong with a file, and the steps that would fix it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

import typer

from mangler.cli.answering import show_json
from mangler.cli.completion import complete_columns
from mangler.cli.parameters import ExtractFile, ReadWords, ReportPlace

if TYPE_CHECKING:
    from mangler.cli.reports.page import Page
    from mangler.insight.profile.profile import Profile


def profile(
    file: ExtractFile,
    columns: Annotated[
        str | None,
        typer.Option(
            "--columns",
            metavar="COLUMNS",
            help="Show these columns in full, as a recipe lists them: 'studio, result', or '*' for all.",
            autocompletion=complete_columns,
        ),
    ] = None,
    read: ReadWords = None,
    report: ReportPlace = None,
    json: Annotated[
        bool, typer.Option("--json", help="Give everything as JSON on standard output, for machines.")
    ] = False,
) -> int:
    """Find what is wrong with a file's columns, and the steps that would correct it.

    The first screen has one line per column, the worst first. With --columns each column is shown in full: its values,
    lengths, marks and numbers, what is wrong, and steps that can be pasted into a recipe or given to try, the sure
    ones first. A step under a question waits for a person's decision. The file is read once, to its end.

    Exit codes: 0 done; 1 the file has no such column; 2 the command line is wrong; 3 the file cannot be read.
    """
    from mangler.cli.paging import paged
    from mangler.cli.progress import ProgressBar
    from mangler.cli.reporting import refuse_report_over, write_page
    from mangler.cli.screen import answer_console
    from mangler.cli.views.profile_view import show_columns, show_overview
    from mangler.insight.profile.profile import profile_file
    from mangler.insight.profile.profile_json import to_json
    from mangler.jobs.events import size_of
    from mangler.recipes.options import column_list, read_words
    from mangler.steps.read import settings

    chosen = column_list(columns) if columns is not None else None
    reading = settings(read_words(read) if read is not None else None)
    refuse_report_over(report, lambda: [(file, "the file itself")])
    bar = ProgressBar(file, size_of(file), wanted=not json)
    try:
        found = profile_file(file, reading, chosen, bar)
    finally:
        bar.close()
    write_page(report, lambda command: _page(found, command))
    if json:
        show_json(to_json(found))
        return 0
    with paged(answer_console()):
        if chosen is not None:
            show_columns(answer_console(), found)
        else:
            show_overview(answer_console(), found, read)
    return 0


def _page(found: Profile, command: str) -> Page:
    from mangler.cli.reports.profile_report import profile_page

    return profile_page(found, command)
