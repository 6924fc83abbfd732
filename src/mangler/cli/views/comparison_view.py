"""What differs between two tables: columns, rows, kinds of differences, and cells with their differences marked."""

from __future__ import annotations

from collections.abc import Sequence

from rich.console import Console
from rich.text import Text

from mangler.cli.views.cells import visible
from mangler.cli.views.lines import print_fitting
from mangler.cli.views.marks import LEFT, LEFT_STYLE, RIGHT, RIGHT_STYLE, marked
from mangler.cli.views.table_view import show_table
from mangler.insight.comparison.cells import Change, Kind
from mangler.insight.comparison.comparison import Comparison, LoneRow
from mangler.language.mistake import enumerate_names
from mangler.table.schema import Column, ValueType

MOST_NAMED = 8
NOTHING = Text("–", style="dim")


def show_comparison(console: Console, found: Comparison, most: int) -> None:
    """`most` is how many changes of cells, and rows that one table has alone, are shown."""
    _show_heads(console, found)
    if not found.differ:
        console.print(Text("Nothing differs.", style="bold"), soft_wrap=True)
        return
    _show_counts(console, found)
    if found.differences:
        console.print()
        _show_kinds(console, found)
        console.print()
        _show_changes(console, found, most)
    _show_lone(console, found, found.lone_before, found.rows_gone, f"only in {found.before}", most)
    _show_lone(console, found, found.lone_after, found.rows_come, f"only in {found.after}", most)


def _show_heads(console: Console, found: Comparison) -> None:
    wide = max(len(found.before), len(found.after))
    columns = len(found.columns)
    for name, rows, more in (
        (found.before, found.rows_before, len(found.gone)),
        (found.after, found.rows_after, len(found.come)),
    ):
        told = f"  {_count(rows, 'row')}, {_count(columns + more, 'column')}"
        console.print(Text.assemble((visible(name, 1000).plain.ljust(wide), "bold"), told), soft_wrap=True)
    if found.key:
        how = f"by {enumerate_names(list(found.key), 5)}"
        how += f", which {'is' if len(found.key) == 1 else 'are'} a key of both" * found.key_was_found
    else:
        how = "by their content and their order"
    console.print(Text(f"Rows belong together {how}.", style="dim"), soft_wrap=True)
    for name, count in zip((found.before, found.after), found.unfit, strict=True):
        if count:
            told = (
                f"! {_count(count, 'row')} of {name} {'does' if count == 1 else 'do'} not fit its table, and"
            )
            console.print(
                Text(f"{told} {'is' if count == 1 else 'are'} not compared", style="yellow"), soft_wrap=True
            )
    console.print()


def _show_counts(console: Console, found: Comparison) -> None:
    """Columns and rows, in a line each."""
    columns = [f"{len(found.columns)} in both"]
    columns += [f"gone: {enumerate_names(found.gone, MOST_NAMED)}"] * bool(found.gone)
    columns += [f"new: {enumerate_names(found.come, MOST_NAMED)}"] * bool(found.come)
    columns += ["in another order"] * found.is_reordered
    columns += [f"{name} is {after}, and was {before}" for name, before, after in found.retyped[:MOST_NAMED]]
    rows = [
        f"{count:,} {word}"
        for count, word in (
            (found.same, "the same"),
            (found.changed, "changed"),
            (found.rows_gone, "gone"),
            (found.rows_come, "new"),
        )
        if count
    ]
    if found.moved is None:
        rows.append("in quite another order")
    elif found.moved:
        rows.append(f"{found.moved:,} moved to another place")
    for head, parts in (("columns", columns), ("rows", rows)):
        console.print(Text.assemble((f"{head:<9}", "bold"), "; ".join(parts)), soft_wrap=True)


def _show_kinds(console: Console, found: Comparison) -> None:
    """A line per column with its cells that changed, by kind."""
    kinds = [kind for kind in Kind if any(one.kinds.get(kind) for one in found.differences)]
    heads = ["column", "cells changed", *map(str, kinds)]
    rows = [
        [
            visible(one.name),
            Text(f"{one.cells:,}"),
            *(Text(f"{one.kinds[kind]:,}") if one.kinds.get(kind) else NOTHING for kind in kinds),
        ]
        for one in sorted(found.differences, key=lambda one: -one.cells)
    ]
    right = range(1, len(heads))
    print_fitting(console, heads, rows, list(right), [""] * len(heads), [1])


def _show_changes(console: Console, found: Comparison, most: int) -> None:
    """Cells before and after: of each column its most frequent change, then the next ones."""
    ranked = [
        (rank, -change.cells, one.name, change)
        for one in found.differences
        for rank, change in enumerate(one.most_frequent(most))
    ]
    ranked.sort(key=lambda one: one[:2])
    shown = [(name, change) for _, _, name, change in ranked[:most]]
    shown.sort(key=lambda one: one[1].row)
    heads = ["row", "now", *found.key, "column", "before", "after", "cells"]
    rows = [_change_line(found, name, change) for name, change in shown]
    keys = len(found.key)
    needed = [2 + keys, 3 + keys, 4 + keys]
    print_fitting(console, heads, rows, [0, 1, 5 + keys], [""] * len(heads), needed)
    legend = Text("  ")
    for marks, style, words in ((LEFT, LEFT_STYLE, "before"), (RIGHT, RIGHT_STYLE, "after")):
        legend.append(f"{marks[0]}only {words}{marks[1]}", style=style).append(" ")
    console.print(legend, soft_wrap=True)
    rest = sum(len(one.changes) for one in found.differences) - len(shown)
    if rest > 0:
        console.print(
            Text(f"  {rest:,} more different changes: --most, or --json", style="dim"), soft_wrap=True
        )


def _change_line(found: Comparison, name: str, change: Change) -> list[Text]:
    before, after = marked(change.before, change.after)
    key = [visible(cell) for cell in change.key] if change.key else [Text("") for _ in found.key]
    return [
        Text(f"{change.row:,}"),
        Text(f"{change.row_now:,}"),
        *key,
        visible(name),
        before,
        after,
        Text(f"{change.cells:,}"),
    ]


def _show_lone(
    console: Console, found: Comparison, rows: Sequence[LoneRow], total: int, where: str, most: int
) -> None:
    if not total:
        return
    console.print()
    console.print(Text(f"{_count(total, 'row')} {where}", style="bold"), soft_wrap=True)
    shown = rows[:most]
    columns = [Column(name, ValueType.TEXT) for name in found.columns]
    cells = [[row.cells[index] for row in shown] for index in range(len(columns))]
    show_table(console, columns, cells, [row.row for row in shown])
    if total > len(shown):
        console.print(Text(f"and {_count(total - len(shown), 'more row')}", style="dim"), soft_wrap=True)


def _count(number: int, word: str) -> str:
    return f"{number:,} {word}{'s' * (number != 1)}"
