"""`mangler compare`: what differs between two tables."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from mangler.cli.answering import show_json
from mangler.cli.completion import complete_columns, complete_extracts
from mangler.cli.parameters import ReportPlace

if TYPE_CHECKING:
    from mangler.cli.reports.page import Page
    from mangler.insight.comparison.comparison import Comparison

BeforeArgument = Annotated[
    str | None,
    typer.Argument(
        help="The table as it was; - is standard input.", show_default=False, autocompletion=complete_extracts
    ),
]
AfterArgument = Annotated[
    str | None,
    typer.Argument(help="The table as it is now.", show_default=False, autocompletion=complete_extracts),
]
RunsOption = Annotated[
    tuple[int, int] | None,
    typer.Option(
        metavar="N N",
        help="The outputs of two past runs, in the place of BEFORE and AFTER.",
        show_default=False,
    ),
]
HistoryOption = Annotated[
    Path | None,
    typer.Option(
        "--history",
        metavar="PATH",
        help="The history that has these runs; by default .mangler/history.db here.",
    ),
]
OnOption = Annotated[
    str | None,
    typer.Option(
        metavar="COLUMNS",
        help="The columns by which rows belong together: 'kiln, fired_at'. By default a key is looked for.",
        autocompletion=complete_columns,
    ),
]
ColumnsOption = Annotated[
    str | None,
    typer.Option(
        "--columns",
        metavar="COLUMNS",
        help="Compare only these, as a recipe lists them: '* except notes'.",
        autocompletion=complete_columns,
    ),
]
InOrderOption = Annotated[
    bool,
    typer.Option(
        "--in-order",
        help="Let rows belong together by their content and their order, also where there is a key.",
    ),
]
MostOption = Annotated[
    int, typer.Option("--most", metavar="N", min=1, max=1_000, help="How many changes and rows to show.")
]
MemoryOption = Annotated[
    str | None,
    typer.Option(metavar="SIZE", help="Memory for rows that changed, as 500MB; beyond it a file is used."),
]
JsonOption = Annotated[
    bool, typer.Option("--json", help="Give the differences as JSON on standard output, for machines.")
]


def compare(
    before: BeforeArgument = None,
    after: AfterArgument = None,
    runs: RunsOption = None,
    history: HistoryOption = None,
    on: OnOption = None,
    columns: ColumnsOption = None,
    in_order: InOrderOption = False,
    most: MostOption = 10,
    memory: MemoryOption = None,
    report: ReportPlace = None,
    json: JsonOption = False,
) -> int:
    """Say what differs between two tables: columns, rows, and cells with their differences marked.

    The two may be of any formats, and of any size. Cells are compared as they are written: 1222 as an integer of a
    Parquet file is the 1222 of a text. Rows belong together by a key, which is looked for where --on names none: a
    column, or two, whose values are all different in both tables. Where there is none, rows that are alike belong
    together, and those between them in their order.

    Exit codes: 0 nothing differs; 1 something does; 2 the command line is wrong; 3 a file cannot be read.
    """
    from mangler.cli.paging import paged
    from mangler.cli.reporting import refuse_report_over, write_page
    from mangler.cli.screen import answer_console
    from mangler.cli.views.comparison_view import show_comparison
    from mangler.language.mistake import wrong_recipe

    one, other = _outputs(runs, history) if runs is not None else (before, after)
    if one is None or other is None or (runs is not None and before is not None):
        raise wrong_recipe(
            "missing-argument",
            "compare needs two tables",
            "Write mangler compare BEFORE AFTER, or mangler compare --runs 3 4.",
        )
    refuse_report_over(report, lambda: [(table, "one of the two tables") for table in (one, other)])
    found = _compared(one, other, on, columns, in_order, memory, wanted=not json)
    write_page(report, lambda command: _page(found, command))
    if json:
        show_json(found.to_json())
    else:
        with paged(answer_console()):
            show_comparison(answer_console(), found, most)
    return int(found.differ)


def _page(found: Comparison, command: str) -> Page:
    from mangler.cli.reports.comparison_report import comparison_page

    return comparison_page(found, command)


def _outputs(runs: tuple[int, int], history: Path | None) -> tuple[str, str]:
    """The files that two past runs delivered."""
    from contextlib import closing

    from mangler.history.outputs import output_of
    from mangler.history.store import History, beside

    with closing(History.open(history or beside(Path("here")), make=False)) as opened:
        one, other = (str(output_of(opened, number)) for number in runs)
    return one, other


def _compared(
    before: str,
    after: str,
    on: str | None,
    columns: str | None,
    in_order: bool,
    memory: str | None,
    wanted: bool,
) -> Comparison:
    from mangler.cli.parameters import memory_of
    from mangler.cli.progress import ProgressBar
    from mangler.insight.comparison.comparing import compare
    from mangler.language.mistake import wrong_recipe
    from mangler.recipes.options import column_list, name_list

    if before == after == "-":
        raise wrong_recipe("extract-twice", "standard input can be read once", "Name a file for one of them.")
    if on is not None and in_order:
        raise wrong_recipe(
            "options-conflict",
            "--on says which rows belong together, and --in-order that their place does",
            "Leave out one of them.",
        )
    chosen = column_list(columns) if columns is not None else None
    key = name_list("--on", on) if on is not None else ()
    bar = ProgressBar(f"{before} and {after}", None, wanted)
    try:
        return compare(before, after, key, chosen, in_order, memory_of(memory), bar)
    finally:
        bar.close()
