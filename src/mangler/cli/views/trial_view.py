"""What steps did to the rows they were tried on: cells before and after, with the differences marked in place."""

from __future__ import annotations

import textwrap
from collections.abc import Iterable, Sequence

from rich.console import Console
from rich.text import Text

from mangler.cli.views.cells import visible
from mangler.cli.views.lines import INDENT, LEAST_WIDE, new_columns, print_fitting, print_lines, show_read_as
from mangler.cli.views.marks import LEFT, LEFT_STYLE, RIGHT, RIGHT_STYLE, come, marked, removed
from mangler.cli.views.split_view import show_cuts
from mangler.cli.views.summary_view import show_counts
from mangler.cli.views.table_view import show_table, show_unfit
from mangler.engine.run.summary import StepLine, example_text
from mangler.engine.trial.differences import CellChange, Differences, ShapedRow
from mangler.engine.trial.trial import FURTHEST_ROW, StepTrial, Trial
from mangler.engine.trial.written import Written
from mangler.language.mistake import enumerate_names
from mangler.table.small import cells_of

MOST_SHOWN = 10


def show_trial(console: Console, trial: Trial) -> None:
    for number, step in enumerate(trial.steps, 1):
        head = f"{number} of {len(trial.steps)}  " if len(trial.steps) > 1 else ""
        console.print(Text.assemble((head, "dim"), (step.planned.text, "bold")), soft_wrap=True)
        console.print()
        _show_step(console, step)
        lines = [("rows tried", step.tried)] + ([("whole file", step.whole)] if step.whole else [])
        show_counts(console, lines)
        _show_failures(console, lines[-1][1], step.planned.step.report(lines[-1][1].tally).ways_out)
        console.print()
    if trial.written is not None:
        _show_written(console, trial.written)
    if trial.lists:
        console.print(Text(f"! {trial.lists}", style="yellow"), soft_wrap=True)
    show_unfit(console, trial.unfit)
    show_read_as(console, trial.read_as)
    console.print(Text(_which_rows(trial), style="dim"), soft_wrap=True)


def _show_written(console: Console, written: Written) -> None:
    """The first lines of the output, or its columns where it is no text."""
    console.print(Text.assemble((f"written as {written.format}", "bold")), soft_wrap=True)
    console.print()
    if not written.is_text:
        print_lines(
            console, ["column", "type"], [[*map(Text, line.split(": ", 1))] for line in written.lines], ()
        )
    for line in written.lines if written.is_text else ():
        console.print(
            Text(INDENT) + visible(line, max(LEAST_WIDE, console.width - len(INDENT))), soft_wrap=True
        )
    for remark in written.remarks:
        console.print(Text(f"{INDENT}! {remark}", style="yellow"), soft_wrap=True)
    console.print()


def _show_failures(console: Console, line: StepLine, ways_out: str) -> None:
    """Rows whose value could not be made: rows that would stop a run, and rows set aside."""
    tally = line.tally
    if tally.failed:
        rows = "1 row fails" if tally.failed == 1 else f"{tally.failed:,} rows fail"
        message = f"✗ {rows}, and a run would deliver nothing; or say {ways_out}"
        for part in textwrap.wrap(message, console.width - 6, subsequent_indent=INDENT):
            console.print(Text(INDENT + part, style=LEFT_STYLE), soft_wrap=True)
        for row, at, reason in tally.failures:
            console.print(Text(f"{INDENT}    {example_text(row, at, reason)}"), soft_wrap=True)
    for row, reason in tally.aside.first(3):
        console.print(Text(f"{INDENT}    {example_text(row, 0, reason)}"), soft_wrap=True)


def _which_rows(trial: Trial) -> str:
    if trial.rows_in_extract == trial.rows_tried:
        rows = "the only row" if trial.rows_tried == 1 else f"all {trial.rows_tried:,} rows"
        return f"Tried on {rows} of {trial.extract}."
    message = f"Tried on rows 1 to {trial.rows_tried:,} of {trial.extract}."
    if trial.rows_in_extract is not None:
        return f"{message} It has {trial.rows_in_extract:,}, and the steps went through all."
    if trial.rows_tried >= FURTHEST_ROW:
        message += " No further rows were read in search of changes."
    return f"{message} All rows: --all."


def _show_step(console: Console, step: StepTrial) -> None:
    found = step.differences
    if step.table is not None:
        cells = [cells_of(column) for column in step.table.columns]
        show_table(console, step.after.columns, cells, step.table.rows.tolist())
        more = step.tried.tally.rows_out - len(step.table)
        if more:
            console.print(Text(f"{INDENT}and {more:,} more {'row' if more == 1 else 'rows'}", style="dim"))
        console.print()
        return
    if step.split_preview is not None and step.split_preview.kept:
        show_cuts(console, step.split_preview)
        console.print()
        return
    for sentence in _columns_told(found, step):
        console.print(Text.assemble(INDENT, sentence), soft_wrap=True)
    if found.rows:
        _show_rows(console, found)
    elif found.cells:
        _show_cells(console, list(found.cells.values()))
    if found.any:
        console.print()


def _columns_told(found: Differences, step: StepTrial) -> Iterable[Text]:
    for old, new in found.renamed:
        yield Text.assemble("column renamed: ", removed(old), " ", come(new))
    for name, old, new in found.retyped:
        yield Text.assemble(f"type of {name}: ", removed(old), " ", come(new))
    if found.gone and not found.rows:
        what = "column" if len(found.gone) == 1 else "columns"
        yield Text.assemble(f"{what} gone: ", *_listed(removed(name) for name in found.gone))
    if found.come and not found.rows:
        yield Text.assemble("columns come: ", *_listed(come(name) for name in found.come))
    if found.order:
        yield Text("order of columns: " + ", ".join(visible(name).plain for name in found.order))
        yield Text("             was: " + ", ".join(visible(name).plain for name in step.before.names), "dim")


def _listed(texts: Iterable[Text]) -> list[Text]:
    out: list[Text] = []
    for text in texts:
        out += [Text(", "), text] if out else [text]
    return out


def _show_cells(console: Console, changes: Sequence[CellChange]) -> None:
    """One line per change: where it was met first, the cell before and after, and how many cells changed alike."""
    heads = ["row", "column", "before", "after", "cells"]
    rows = []
    shown = of_every_column(changes, MOST_SHOWN)
    for change in shown:
        before, after = marked(change.before, change.after)
        rows.append(
            [Text(f"{change.row:,}"), visible(change.column), before, after, Text(f"{change.times:,}")]
        )
    print_lines(console, heads, rows, right=(0, 4))
    if len(changes) > MOST_SHOWN:
        cells = sum(change.times for change in changes) - sum(change.times for change in shown)
        message = f"and {len(changes) - len(shown):,} other changes in {cells:,} cells"
        console.print(Text(INDENT + message, style="dim"))
    _show_legend(console)


def of_every_column(changes: Sequence[CellChange], most: int) -> list[CellChange]:
    """Some changes of each column, so that none is left out while another has many; in the order of columns."""
    ranks: dict[str, int] = {}
    ranked = []
    for number, change in enumerate(changes):
        ranked.append((ranks.setdefault(change.column, 0), number))
        ranks[change.column] += 1
    return [changes[number] for number in sorted(number for _, number in sorted(ranked)[:most])]


def _show_rows(console: Console, found: Differences) -> None:
    """Rows of a step that makes or takes away columns or rows, each with a sign of its own."""
    shown = found.rows[:MOST_SHOWN]
    old = list(dict.fromkeys(name for row in found.rows for name in row.before))
    gone = [name for name in old if name in found.gone]
    names = list(
        dict.fromkeys([*gone, *found.come, *old] if gone else [*old, *found.come])
    )  # what goes, and beside it what comes from it
    heads = [" row", *(_head(name, found) for name in names)]
    rows = [[_row_number(row), *(_cell(row, name, found) for name in names)] for row in shown]
    styles = ["", *(RIGHT_STYLE if n in found.come else LEFT_STYLE if n in found.gone else "" for n in names)]
    new = [index for index, name in enumerate(names, 1) if name in found.come]
    print_fitting(console, heads, rows, (0,), styles, new)
    if found.rows_touched > len(shown):
        console.print(Text(f"{INDENT}and {found.rows_touched - len(shown):,} more rows", style="dim"))
    legend = []
    if found.come:
        legend.append(new_columns(found.come))
    if found.gone:
        what = "a column that goes" if len(found.gone) == 1 else "columns that go"
        legend.append(f"− {enumerate_names([visible(name).plain for name in found.gone], 4)}: {what}")
    kinds = {row.kind for row in shown}
    legend += ["+ row: a new row"] * ("new" in kinds) + ["− row: a row that goes"] * ("removed" in kinds)
    console.print(Text(INDENT + "; ".join(legend), style="dim"), soft_wrap=True)


def _head(name: str, found: Differences) -> str:
    sign = "+ " if name in found.come else "− " if name in found.gone else ""
    return sign + visible(name).plain


def _row_number(row: ShapedRow) -> Text:
    sign, style = {"new": ("+", RIGHT_STYLE), "removed": ("−", LEFT_STYLE), "changed": (" ", "")}[row.kind]
    return Text(f"{sign}{row.row:,}", style=style)


def _cell(row: ShapedRow, name: str, found: Differences) -> Text:
    if row.kind == "removed" or name in found.gone:
        return _styled(visible(row.before[name]), LEFT_STYLE) if name in row.before else Text()
    if row.kind == "new" or name in found.come:
        return _styled(visible(row.after[name]), RIGHT_STYLE) if name in row.after else Text()
    before, after = row.before.get(name), row.after.get(name)
    if before == after:
        return visible(after)
    one, other = marked(before, after)
    return Text.assemble(one, " ", other)


def _styled(text: Text, style: str) -> Text:
    text.stylize(style)
    return text


def _show_legend(console: Console) -> None:
    legend = Text.assemble(
        INDENT, (f"{LEFT[0]}removed{LEFT[1]}", LEFT_STYLE), " ", (f"{RIGHT[0]}came in{RIGHT[1]}", RIGHT_STYLE)
    )
    console.print(legend)
