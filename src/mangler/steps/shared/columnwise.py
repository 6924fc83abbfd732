"""Steps that treat each of their columns by itself, and steps that only choose columns."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, TypeAlias

import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.fields import entries_of, made_of
from mangler.kernels.text.patterns import matches
from mangler.kernels.text.text_view import Flags, TooLargeError
from mangler.language.mistake import extract_does_not_fit
from mangler.language.patterns import Pattern
from mangler.language.statement import Statement
from mangler.language.usage import parse_usage
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Schema, ValueType
from mangler.table.select import Selection, select
from mangler.table.tally import MOST_EXAMPLES, Tally

if TYPE_CHECKING:
    from mangler.steps.shared.conditions import Condition

ColumnWork: TypeAlias = Callable[[ColumnArray, Tally], ColumnArray]
"""Takes a column and the tally to count into; gives the column that takes its place."""

FIRST_LOOK = 64
"""Cells that are looked at first for different examples."""
TEXT_ONLY = frozenset({ValueType.TEXT})


@dataclass(frozen=True)
class ColumnwiseStep(RowStep):
    """The same work on each of some columns; the others pass as they are."""

    schema: Schema
    statement: Statement
    selection: Selection
    work: ColumnWork
    advise: Callable[[Tally], list[str]]
    idle: str
    """The likely cause when nothing changed."""
    condition: Condition | None = None
    """Which rows the work is done on; the others stay as they are."""

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        batch, met, tally = apply_where(batch, self.condition)
        tally.rows_out = len(batch)
        columns = entries_of(batch.columns)
        try:
            chosen = made_of(batch.columns, self.selection.indices)
            for index, column in zip(self.selection.indices, chosen, strict=True):
                columns[index] = self._work_on(column, met, tally)
        except TooLargeError as error:
            raise extract_does_not_fit(
                "too-large",
                f"rows {batch.rows[0]:,} to {batch.rows[-1]:,}: {error}",
                "Make the replacement shorter, or split the cells first.",
                self.statement.span,
            ) from None
        return batch.with_columns(columns), tally

    def _work_on(self, column: ColumnArray, met: Flags | None, tally: Tally) -> ColumnArray:
        if met is None or met.all():
            return self.work(column, tally)
        if not met.any():
            return column
        flags = from_numpy(met)
        chosen, rows = column.filter(flags), tally.rows
        assert rows is not None
        tally.rows = rows[met]
        changed_cells = self.work(chosen, tally)
        tally.rows = rows
        return column if changed_cells is chosen else pc.replace_with_mask(column, flags, changed_cells)

    def remarks(self, tally: Tally) -> list[str]:
        advice = [*remarks_on_condition(tally), *self.advise(tally)]
        return column_remarks(self.selection, tally, advice, self.idle)


def apply_where(batch: Batch, condition: Condition | None) -> tuple[Batch, Flags | None, Tally]:
    """How every step that takes `where` begins: the rows that have not failed it, which of them meet it, and a tally.

    None for the rows that meet it where there is no condition: all do.
    """
    tally = Tally(rows_in=len(batch), rows=batch.rows)
    if condition is None:
        return batch, None, tally
    batch, met = condition.test(batch, tally)
    tally.rows = batch.rows
    return batch, met, tally


def where(statement: Statement, schema: Schema, usage: str) -> Condition | None:
    """What a statement's `where` means; expressions are loaded only for a statement that has one."""
    if not statement.has("where"):
        return None
    from mangler.steps.shared.conditions import condition_of

    return condition_of(statement, schema, usage)


def remarks_on_condition(tally: Tally) -> list[str]:
    """How many rows a condition left out, null apart from false."""
    if not tally.counts["rows_false"] and not tally.counts["rows_null"]:
        return []
    parts = []
    if tally.counts["rows_false"]:
        parts.append(f"false for {tally.counts['rows_false']:,}")
    if tally.counts["rows_null"]:
        parts.append(f"null for {tally.counts['rows_null']:,}, which counts as not met")
    rows = tally.counts["rows_met"] + tally.counts["rows_false"] + tally.counts["rows_null"]
    return [f"where is met by {tally.counts['rows_met']:,} of {rows:,} rows: {', '.join(parts)}"]


def column_remarks(selection: Selection, tally: Tally, advice: list[str], idle: str) -> list[str]:
    """Remarks on a step that changes cells: that it did nothing and why, advice, columns skipped."""
    remarks = list(advice)
    if selection.passed_over:
        remarks.append(f"skipped, being no text: {', '.join(selection.passed_over)}")
    if not selection.indices:
        remarks.insert(0, "no column is meant: nothing was done")
    elif not tally.changed_anything and tally.rows_in:
        remarks.insert(0, f"changed nothing: {idle}")
    return remarks


@dataclass(frozen=True)
class ColumnChoice(RowStep):
    """Passes these columns on, in this order."""

    schema: Schema
    indices: tuple[int, ...]

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        tally, entries = Tally(rows_in=len(batch), rows_out=len(batch)), entries_of(batch.columns)
        return batch.with_columns([entries[index] for index in self.indices]), tally


def choose(
    statement: Statement,
    schema: Schema,
    usage: str,
    key: str = "columns",
    types: frozenset[ValueType] | None = TEXT_ONLY,
) -> Selection:
    """The columns that a clause of a statement means."""
    words = parse_usage(statement.verb, usage).clause_words()
    return select(statement.columns(key), schema, statement.verb, matching_names, types, words)


def matching_names(pattern: Pattern, names: list[str]) -> list[bool]:
    return [bool(hit) for hit in matches(pa.array(names, pa.string()), pattern.re2)]


def note_examples(tally: Tally, column: ColumnArray, flags: Flags) -> None:
    """Keeps the first few flagged cells for the summary: those of the first rows, each different text once."""
    import numpy as np

    where = np.flatnonzero(flags)
    if not len(where):
        return
    assert tally.rows is not None and len(tally.rows) == len(column)
    rows = tally.rows[where]
    if (rows[1:] < rows[:-1]).any():
        order = np.argsort(rows, kind="stable")
        where, rows = where[order], rows[order]
    texts = column.take(from_numpy(where[:FIRST_LOOK])).to_pylist()
    if len(set(texts)) >= MOST_EXAMPLES or len(where) <= FIRST_LOOK:
        tally.note_found(zip(rows[:FIRST_LOOK].tolist(), texts, strict=True))
        return
    encoded = as_dictionary(column.take(from_numpy(where)))
    codes = np.asarray(encoded.indices)  # in the order in which values come first
    for code, text in enumerate(encoded.dictionary[:MOST_EXAMPLES].to_pylist()):
        tally.note_found([(int(rows[(codes == code).argmax()]), text)])


def such_as(tally: Tally) -> str:
    """` such as "Tenmoku"`: the examples of a tally, cut to what a line holds."""
    if not tally.examples:
        return ""
    shown = [
        example if len(example) <= 24 else f"{example[:14]}…{example[-8:]}" for example in tally.examples
    ]
    return ", such as " + ", ".join(f'"{example}"' for example in shown)
