"""What each step of a recipe did, seen on the first rows of an extract, as `try` shows it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from mangler.addresses import is_elsewhere
from mangler.cli.reports.cells import cell, change, gone, head, name, new
from mangler.cli.reports.page import Block, CellText, Listing, Paragraph
from mangler.cli.views.trial_view import of_every_column
from mangler.engine.plan.plan import steps_of
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.trial.trial import StepTrial, attempt
from mangler.language.items import Step
from mangler.language.mistake import Refusal
from mangler.steps import VERBS
from mangler.table.small import cells_of

ROWS = 1_000
"""Rows at the start of an extract on which the steps are shown."""
MOST_SHOWN, MOST_ROWS, MOST_COLUMNS = 6, 4, 7
SIGNS = {"new": "+ ", "removed": "− ", "changed": ""}


def samples_of(recipe: LinkedRecipe, extract: str) -> list[StepTrial] | str:
    """What the steps did to the first rows of an extract; or, in a sentence, why that cannot be shown."""
    if extract == "-" or extract.startswith("(") or is_elsewhere(extract):
        return "What the steps did to single cells is shown of files on this machine only."
    parsed = recipe.parsed
    others = tuple(
        item for item in parsed.items if not (isinstance(item, Step) and VERBS.is_step(item.statement.verb))
    )
    try:
        return attempt(extract, replace(parsed, items=others), steps_of(parsed), ROWS).steps
    except Refusal as refusal:
        return f"What the steps did to single cells cannot be shown: {refusal.mistakes[0].message}"


def sample_blocks(trial: StepTrial) -> Iterator[Block]:
    """Cells, columns and rows that a step touched; nothing where it touched none of the first rows."""
    found = trial.differences
    if trial.table is not None:
        yield _table(trial)
        return
    if found.renamed:
        pairs = ", ".join(f"{name(old)} is now {name(now)}" for old, now in found.renamed[:MOST_SHOWN])
        yield Paragraph(f"Columns renamed: {pairs}{' and more' * (len(found.renamed) > MOST_SHOWN)}.")
    if found.retyped:
        yield Listing(
            ["column", "type before", "type after"],
            [[name(column), gone(old), new(now)] for column, old, now in found.retyped[:MOST_SHOWN]],
        )
    if found.rows:
        yield _rows(trial)
        return
    for word, names in (("gone", found.gone), ("new", found.come)):
        if names:
            yield Paragraph(f"Columns {word}: {_listed(names)}.")
    if found.cells:
        rows: list[list[CellText]] = []
        for one in of_every_column(list(found.cells.values()), MOST_SHOWN):
            before, after = change(one.before, one.after)
            rows.append([f"{one.row:,}", name(one.column), before, after, f"{one.times:,}"])
        yield Listing(["row", "column", "before", "after", "cells"], rows, frozenset({0, 4}))


def _listed(names: Sequence[str]) -> str:
    shown = ", ".join(name(one) for one in names[:MOST_COLUMNS])
    return shown + f" and {len(names) - MOST_COLUMNS:,} more" * (len(names) > MOST_COLUMNS)


def _table(trial: StepTrial) -> Listing:
    assert trial.table is not None
    names = trial.after.names[:MOST_COLUMNS]
    cells = [cells_of(column.slice(0, MOST_ROWS)) for column in trial.table.columns[:MOST_COLUMNS]]
    rows: list[list[CellText]] = [
        [f"{row:,}", *(cell(value, 32) for value in values)]
        for row, *values in zip(trial.table.rows[:MOST_ROWS].tolist(), *cells, strict=True)
    ]
    return Listing(
        ["row", *map(head, names)], rows, frozenset({0}), "The first rows that come out of the sample"
    )


def _rows(trial: StepTrial) -> Listing:
    """Rows of a step that makes or takes away columns or rows."""
    found = trial.differences
    old = list(dict.fromkeys(one for row in found.rows for one in row.before))
    leaving = [one for one in old if one in found.gone]
    names = list(dict.fromkeys([*leaving, *found.come, *old] if leaving else [*old, *found.come]))[
        :MOST_COLUMNS
    ]
    rows: list[list[CellText]] = []
    for row in found.rows[:MOST_ROWS]:
        cells: list[CellText] = []
        for one in names:
            if row.kind == "removed" or one in found.gone:
                cells.append(gone(row.before[one]) if one in row.before else "")
            elif row.kind == "new" or one in found.come:
                cells.append(new(row.after[one]) if one in row.after else "")
            elif row.before.get(one) == row.after.get(one):
                cells.append(cell(row.after.get(one), 32))
            else:
                before, after = change(row.before.get(one), row.after.get(one))
                cells.append([*before, *after])
        rows.append([SIGNS[row.kind] + f"{row.row:,}", *cells])
    heads = [("− " if one in found.gone else "+ " if one in found.come else "") + head(one) for one in names]
    kinds = {row.kind for row in found.rows[:MOST_ROWS]}
    legend = [
        f"+ {what}" for what in ["column that comes"] * bool(found.come) + ["new row"] * ("new" in kinds)
    ]
    legend += [
        f"− {what}"
        for what in ["column that goes"] * bool(found.gone) + ["row that goes"] * ("removed" in kinds)
    ]
    return Listing(["row", *heads], rows, frozenset({0}), "; ".join(legend))
