"""`--report FILE` of any command: nothing of a report is loaded where none is asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from mangler.cli.reports.page import Page
    from mangler.engine.run.overwriting import NamedFile


def refuse_report_over(report: Path | None, read: Callable[[], Iterable[NamedFile]]) -> None:
    """Refuses, before any work, a place that no report can be written to; `read` gives the command's other files."""
    if report is not None:
        from mangler.cli.reports.writing import refuse_bad_place

        refuse_bad_place(report, read())


def write_page(place: Path | None, page: Callable[[str], Page]) -> None:
    """Writes a report; `page` makes it, and is given the command that is being run."""
    if place is not None:
        from mangler.cli.reports.writing import write_report
        from mangler.cli.words import own_command

        write_report(place, page(own_command()))
