"""Rows of a table on the screen, and how the file was read."""

from __future__ import annotations

from rich.console import Console
from rich.text import Text

from mangler.cli.views.cells import visible
from mangler.cli.views.lines import show_read_as
from mangler.cli.views.table_view import show_table, show_unfit
from mangler.engine.trial.look import View
from mangler.language.mistake import enumerate_names

CHOOSE = "choose with --columns '{}'"


def show_look(console: Console, view: View, met_only: bool) -> None:
    """`met_only`: only rows that meet a condition are shown."""
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
    show_table(console, view.columns, view.cells, view.numbers, CHOOSE)
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
