"""`mangler look`: rows of a table, as they are."""

from __future__ import annotations

from typing import Annotated

import typer

from mangler.cli.answering import show_json
from mangler.cli.completion import complete_columns
from mangler.cli.parameters import ExtractFile, ReadWords

RowsOption = Annotated[
    int | None,
    typer.Option(metavar="N", min=1, max=100_000, help="How many rows; by default 20.", show_default=False),
]
StartOption = Annotated[
    int,
    typer.Option(
        "--from",
        metavar="N",
        help="The first row to show; a negative number counts from the end, and the whole file is read.",
    ),
]
ColumnsOption = Annotated[
    str | None,
    typer.Option(
        "--columns",
        metavar="COLUMNS",
        help="Which columns, as a recipe lists them: '* except notes'.",
        autocompletion=complete_columns,
    ),
]
WhereOption = Annotated[
    str | None,
    typer.Option(
        metavar="CONDITION", help="Only rows that meet a condition, as a recipe has it: 'cone = \"06\"'."
    ),
]
JsonOption = Annotated[
    bool, typer.Option("--json", help="Give the rows as JSON on standard output, for machines.")
]


def look(
    file: ExtractFile,
    rows: RowsOption = None,
    start: StartOption = 1,
    columns: ColumnsOption = None,
    where: WhereOption = None,
    read: ReadWords = None,
    json: JsonOption = False,
) -> int:
    """Show rows of a table, with white space that matters made visible.

    · is a space at an end or in a run, → a tab, ↵ a line break, ⍽ a no-break space, ‹2009› any other blank by its
    code point. (null) means no value, "" an empty text. Only what is shown is read of the file.

    Exit codes: 0 done; 1 the file has no such row or column; 2 the command line is wrong; 3 the file cannot be read.
    """
    from mangler.cli.paging import paged
    from mangler.cli.progress import ProgressBar
    from mangler.cli.screen import answer_console
    from mangler.cli.views.look_view import show_look
    from mangler.engine.trial.look import look_at
    from mangler.jobs.events import size_of
    from mangler.language.mistake import wrong_recipe
    from mangler.recipes.options import column_list, condition_text, read_words
    from mangler.steps.read import settings

    if start == 0:
        raise wrong_recipe("count-from-one", "rows are counted from 1", "From the end: --from -20.")
    chosen = column_list(columns) if columns is not None else None
    reading = settings(read_words(read) if read is not None else None)
    condition = condition_text(where) if where is not None else None
    bar = ProgressBar(file, size_of(file), wanted=not json)
    try:
        view = look_at(file, reading, start, rows, chosen, condition, bar)
    finally:
        bar.close()
    if json:
        show_json(view.to_json())
    else:
        with paged(answer_console()):
            show_look(answer_console(), view, condition is not None)
    return 0
