"""`mangler run`: cleans extracts with a recipe."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

import typer

from mangler.cli.completion import complete_extracts
from mangler.cli.parameters import FilesUnder, GivenParameters, HistoryPlace, RecipeFile, ReportPlace, RunDate


class Account(StrEnum):
    """How much is told of each extract."""

    FULL = "full"
    SHORT = "short"


FilesArgument = Annotated[
    list[str],
    typer.Argument(
        metavar="FILE...",
        help="The extracts: files, folders, patterns in quotes as 'extracts/*.csv', parts as book.xlsx#Log;"
        " - is standard input.",
        show_default=False,
        autocompletion=complete_extracts,
    ),
]
ToOption = Annotated[
    str | None,
    typer.Option(
        metavar="PATH",
        help="Where the cleaned table goes: a file or, for several extracts, a folder. Without it the table"
        " goes into a pipe; on a terminal the run is rehearsed.",
    ),
]
AppendOption = Annotated[
    str | None,
    typer.Option(
        metavar="PATH",
        help="Put the cleaned rows of all extracts behind those that are in a file, in the place of --to; a file that"
        " is not there is made. Other columns than the file's are refused. With --only-new a table grows week by week.",
    ),
]
AsideOption = Annotated[
    str | None,
    typer.Option(
        metavar="PATH",
        help="Where rows set aside go. By default beside the output, as NAME.aside and the extract's own ending.",
    ),
]
RehearseOption = Annotated[
    bool,
    typer.Option(
        "--rehearse", help="Show the summary and, with the full one, the first cleaned rows; write nothing."
    ),
]
StrictOption = Annotated[
    bool,
    typer.Option("--strict", help="Any row set aside and any warning keeps an extract from being delivered."),
]
OnlyNewOption = Annotated[
    bool,
    typer.Option(
        "--only-new",
        help="Skip extracts that this recipe has delivered before, known by their content and not by name; with"
        " --append, those whose rows are in that file.",
    ),
]
RowsOption = Annotated[
    int | None, typer.Option(metavar="N", min=1, help="Read only the first N rows of each extract.")
]
MemoryOption = Annotated[
    str | None,
    typer.Option(
        metavar="SIZE",
        help="Memory that steps may take which must see all rows, as 500MB or 2GB; beyond it rows go to temporary"
        " files. By default half of what the machine has.",
    ),
]
TogetherOption = Annotated[
    bool,
    typer.Option(
        "--together",
        help="All extracts as one table, in the file that --to names. Steps that look at one row at a time see each"
        " extract by itself; from the first that looks at more on, all rows are one table. Columns are in the order in"
        " which they first come; null is where an extract has none. Rows set aside go to a file for each extract.",
    ),
]
WorkersOption = Annotated[
    int,
    typer.Option(
        metavar="N",
        min=1,
        max=256,
        help="How many extracts are cleaned at once, each by a process of its own. With --together and --append, how"
        " many processes divide the large ones among them.",
    ),
]
ClusterOption = Annotated[
    str | None,
    typer.Option(
        metavar="ADDRESS",
        help="Let the workers of a dask.distributed scheduler do the work: tcp://scheduler:8786, or local:N for N"
        " processes here. Large files are divided. Every worker needs Mangler and the extracts under the same paths.",
    ),
]
AgainstOption = Annotated[
    str | None,
    typer.Option(
        metavar="TABLE",
        help="Compare the output with another table afterwards, as mangler compare does: the one of last week, or what"
        " is in the output's place before it is replaced.",
    ),
]
SummaryOption = Annotated[
    Account | None,
    typer.Option(
        help="full: a line per step, of each extract. short: one line per extract. By default full for one extract,"
        " short for several.",
        show_default=False,
    ),
]
QuietOption = Annotated[bool, typer.Option("--quiet", help="Show no summary and no progress, only errors.")]
JsonOption = Annotated[
    bool, typer.Option("--json", help="Give the summary as JSON on standard output, for machines.")
]


def run(
    recipe: RecipeFile,
    files: FilesArgument,
    to: ToOption = None,
    append: AppendOption = None,
    aside: AsideOption = None,
    rehearse: RehearseOption = False,
    strict: StrictOption = False,
    only_new: OnlyNewOption = False,
    history: HistoryPlace = None,
    files_under: FilesUnder = None,
    parameters: GivenParameters = None,
    run_date: RunDate = None,
    rows: RowsOption = None,
    memory: MemoryOption = None,
    together: TogetherOption = False,
    workers: WorkersOption = 1,
    cluster: ClusterOption = None,
    against: AgainstOption = None,
    report: ReportPlace = None,
    summary: SummaryOption = None,
    quiet: QuietOption = False,
    json: JsonOption = False,
) -> int:
    """Clean extracts with a recipe.

    Every extract is delivered whole or not at all; one that is refused does not stop the others. The summary reports
    what each step did, and that every row read was delivered, dropped or set aside.

    Exit codes: 0 done; 1 an extract does not fit the recipe; 2 the recipe or the command line is wrong;
    3 a file cannot be read or written; 4 delivered, but not noted in the history; 70 a fault of Mangler;
    130, 143 or 129 ended by a signal.
    """
    from mangler.cli.run_request import RunRequest

    request = RunRequest(
        recipe=recipe,
        files=files,
        to=to,
        append=append,
        aside=aside,
        rehearse=rehearse,
        strict=strict,
        only_new=only_new,
        history=history,
        files_under=files_under,
        parameters=parameters,
        run_date=run_date,
        rows=rows,
        memory=memory,
        together=together,
        workers=workers,
        cluster=cluster,
        against=against,
        report=report,
        full=None if summary is None else summary is Account.FULL,
        quiet=quiet,
        json=json,
    )
    return request.answer()
