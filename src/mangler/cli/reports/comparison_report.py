"""The report of `compare`: columns, rows, kinds of differences, and cells before and after."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from mangler.cli.reports.cells import cell, change, head, name, number
from mangler.cli.reports.figures.bars import values
from mangler.cli.reports.page import Block, CellText, Facts, Listing, Page, Paragraph, Section, Tone
from mangler.insight.comparison.cells import Kind
from mangler.insight.comparison.comparison import Comparison, LoneRow

MOST_CHANGES, MOST_OF_COLUMN = 60, 8
MOST_COLUMNS, MOST_NAMES = 8, 30
MOST_BARS = 20


def comparison_page(found: Comparison, made_by: str) -> Page:
    title = f"{name(found.before)} compared with {name(found.after)}"
    return Page(
        title, verdict(found), Tone.LOOK if found.differ else Tone.GOOD, list(sections(found)), made_by
    )


def verdict(found: Comparison) -> str:
    """What differs, in one line."""
    if not found.differ:
        return "Nothing differs."
    counts = [
        f"{count:,} {word}"
        for count, word in (
            (found.changed, "changed"),
            (found.rows_gone, "gone"),
            (found.rows_come, "new"),
            (found.moved or 0, "moved"),
        )
        if count
    ]
    if found.moved is None:
        counts.append("in quite another order")
    told = f"Of {found.rows_before:,} rows {found.same:,} are the same" + f"; {', '.join(counts)}" * bool(
        counts
    )
    columns = len(found.gone) + len(found.come)
    return told + f"; {columns} {'column' if columns == 1 else 'columns'} came or went" * bool(columns) + "."


def sections(found: Comparison) -> Iterator[Section]:
    yield Section("Tables", list(_heads(found)))
    if found.differences:
        yield Section("Cells that changed", list(_changes(found)))
    for rows, total, title in (
        (found.lone_before, found.rows_gone, f"Rows only in {name(found.before)}"),
        (found.lone_after, found.rows_come, f"Rows only in {name(found.after)}"),
    ):
        if total:
            yield Section(title, list(_lone(found, rows, total)))


def _heads(found: Comparison) -> Iterator[Block]:
    columns = len(found.columns)
    rows = [
        [name(table), number(rows), number(columns + len(alone)), number(unfit)]
        for table, rows, alone, unfit in (
            (found.before, found.rows_before, found.gone, found.unfit[0]),
            (found.after, found.rows_after, found.come, found.unfit[1]),
        )
    ]
    wide = 4 if any(found.unfit) else 3
    heads = ["table", "rows", "columns", "rows that do not fit"][:wide]
    yield Listing(heads, [row[:wide] for row in rows], frozenset(range(1, wide)))
    how = f"by {', '.join(map(name, found.key))}" if found.key else "by their content and their order"
    how += ", which was found to be a key of both" * (bool(found.key) and found.key_was_found)
    facts = [("rows belong together", how)]
    facts += [("columns gone", _names(found.gone))] * bool(found.gone)
    facts += [("columns new", _names(found.come))] * bool(found.come)
    facts += [("order of columns", "another one")] * found.is_reordered
    facts += [(f"type of {name(one)}", f"{was}, now {now}") for one, was, now in found.retyped[:MOST_NAMES]]
    yield Facts(facts)


def _names(names: Sequence[str]) -> str:
    more = len(names) - MOST_NAMES
    return ", ".join(map(name, names[:MOST_NAMES])) + f" and {more:,} more" * (more > 0)


def _changes(found: Comparison) -> Iterator[Block]:
    ordered = sorted(found.differences, key=lambda one: -one.cells)
    kinds = [kind for kind in Kind if any(one.kinds.get(kind) for one in ordered)]
    worst = [(name(one.name), one.cells) for one in ordered[:MOST_BARS]]
    told = f"Cells that changed in {len(ordered)} {'column' if len(ordered) == 1 else 'columns'}"
    told += f", most of them in {worst[0][0]}." if len(worst) > 1 else "."
    yield values(worst, told)
    rows: list[list[CellText]] = [
        [name(one.name), number(one.cells), *(number(one.kinds.get(kind) or None) for kind in kinds)]
        for one in ordered
    ]
    yield Listing(
        ["column", "cells", *map(str, kinds)], rows[:500], frozenset(range(1, 2 + len(kinds))), "By kind"
    )
    ranked = [
        (rank, -one.cells, column.name, one)
        for column in ordered
        for rank, one in enumerate(column.most_frequent(MOST_OF_COLUMN))
    ]
    ranked.sort(key=lambda one: one[:2])
    shown = sorted(
        ((column, one) for _, _, column, one in ranked[:MOST_CHANGES]), key=lambda pair: pair[1].row
    )
    rows = []
    for column, one in shown:
        before, after = change(one.before, one.after)
        key = [cell(value, 24) for value in one.key] if one.key else [""] * len(found.key)
        rows.append(
            [number(one.row), number(one.row_now), *key, name(column), before, after, number(one.cells)]
        )
    heads = ["row", "now", *map(head, found.key), "column", "before", "after", "cells"]
    yield Listing(
        heads,
        rows,
        frozenset({0, 1, len(heads) - 1}),
        "Cells before and after, where each change was met first",
    )
    rest = sum(len(one.changes) for one in found.differences) - len(shown)
    if rest > 0:
        yield Paragraph(f"{rest:,} more different changes are not shown.")


def _lone(found: Comparison, rows: Sequence[LoneRow], total: int) -> Iterator[Block]:
    heads = ["row", *map(head, found.columns[:MOST_COLUMNS])]
    yield Listing(
        heads,
        [[number(one.row), *(cell(value, 24) for value in one.cells[:MOST_COLUMNS])] for one in rows],
        frozenset({0}),
    )
    if len(found.columns) > MOST_COLUMNS:
        yield Paragraph(f"{len(found.columns) - MOST_COLUMNS:,} more columns are not shown.")
    if total > len(rows):
        yield Paragraph(f"and {total - len(rows):,} more rows")
