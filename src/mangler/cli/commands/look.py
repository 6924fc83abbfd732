"""`mangler look`: rows of a table, as they are."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

import typer

from mangler.cli.answering import show_json
from mangler.cli.parameters import ExtractFile, ReadWords

if TYPE_CHECKING:
    from rich.console import Console

    from mangler.engine.trial.look import View


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
        "--columns", metavar="COLUMNS", help="Which columns, as a recipe lists them: '* except notes'."
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
    from mangler.cli.progress import ProgressBar
    from mangler.cli.screen import answer_console
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
        _show(answer_console(), view, condition is not None)
    return 0


def _show(console: Console, view: View, met_only: bool) -> None:
    from rich.text import Text

    from mangler.cli.views.cells import visible
    from mangler.cli.views.lines import show_read_as
    from mangler.cli.views.table_view import show_table, show_unfit
    from mangler.language.mistake import enumerate_names

    found = ", ".join(f"{what} {found}" for what, found in view.detected.items())
    console.print(Text.assemble((view.extract, "bold"), (f"  {found}" * bool(found), "dim")), soft_wrap=True)
    show_read_as(console, view.read_as)
    if view.total == 0:
        names = [visible(column.name).plain for column in view.columns]
        console.print(
            Text(f"It has a header and no rows. Columns: {enumerate_names(names, 10)}"), soft_wrap=True
        )
        return
    if not view.numbers and not view.unfit:
        console.print(Text("No row meets the condition."))
        return
    console.print()
    show_table(console, view.columns, view.cells, view.numbers)
    show_unfit(console, view.unfit)
    numbers = sorted([*view.numbers, *(row.row for row in view.unfit)])
    message = _which_rows(numbers, view.total) if not met_only else _how_many(len(view.numbers), view.total)
    console.print(Text(message, style="dim"), soft_wrap=True)


def _how_many(count: int, total: int | None) -> str:
    rows = "1 row that meets" if count == 1 else f"{count:,} rows that meet"
    return f"{rows} the condition" + (
        f", of {total:,} rows" if total is not None else "; there may be more: --rows"
    )


def _which_rows(numbers: list[int], total: int | None) -> str:
    first, last = numbers[0], numbers[-1]
    rows = f"row {first:,}" if first == last else f"rows {first:,} to {last:,}"
    if total is None or last < total:
        return f"{rows}{f' of {total:,}' if total is not None else ''}; further ones: --from {last + 1}"
    return f"{rows} of {total:,}"
