"""Steps that treat each of their columns by itself, and steps that only choose columns."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeAlias

import pyarrow as pa

from mangler.kernels.patterns import matches
from mangler.kernels.text_view import TooLargeError
from mangler.language.mistake import extract_does_not_fit
from mangler.language.patterns import Pattern
from mangler.language.statement import Statement
from mangler.language.usage import parse_usage
from mangler.table.batch import Batch
from mangler.table.schema import Schema, ValueType
from mangler.table.select import Selection, select
from mangler.table.tally import MOST_EXAMPLES, Tally

ColumnWork: TypeAlias = Callable[[Any, Tally], Any]
"""Takes a column and the tally to count into; gives the column that takes its place."""

TEXT_ONLY = frozenset({ValueType.TEXT})


@dataclass(frozen=True)
class ColumnwiseStep:
    """The same work on each of some columns; the others pass as they are."""

    schema: Schema
    statement: Statement
    selection: Selection
    work: ColumnWork
    advise: Callable[[Tally], list[str]]
    idle: str
    """The likely cause when nothing changed."""

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch), rows_out=len(batch))
        columns = list(batch.columns)
        try:
            for index in self.selection.indices:
                columns[index] = self.work(columns[index], tally)
        except TooLargeError as error:
            raise extract_does_not_fit(
                f"rows {batch.rows[0]:,} to {batch.rows[-1]:,}: {error}",
                "Make the replacement shorter, or split the cells first.",
                self.statement.place,
            ) from None
        return batch.with_columns(columns), tally

    def remarks(self, tally: Tally) -> list[str]:
        return column_remarks(self.selection, tally, self.advise(tally), self.idle)


def column_remarks(selection: Selection, tally: Tally, advice: list[str], idle: str) -> list[str]:
    """Remarks on a step that changes cells: that it did nothing and why, advice, columns passed over."""
    remarks = list(advice)
    if selection.passed_over:
        remarks.append(f"passed over, being no text: {', '.join(selection.passed_over)}")
    if not selection.indices:
        remarks.insert(0, "no column is meant: nothing was done")
    elif not tally.changed_anything and tally.rows_in:
        remarks.insert(0, f"changed nothing: {idle}")
    return remarks


@dataclass(frozen=True)
class ColumnChoice:
    """Passes these columns on, in this order."""

    schema: Schema
    indices: tuple[int, ...]

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch), rows_out=len(batch))
        return batch.with_columns([batch.columns[index] for index in self.indices]), tally

    def remarks(self, tally: Tally) -> list[str]:  # noqa: ARG002
        return []


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


def note_examples(tally: Tally, column: Any, flags: Any) -> None:
    """Keeps the first few flagged cells for the summary."""
    import numpy as np

    for index in np.flatnonzero(flags)[: MOST_EXAMPLES * 4].tolist():
        value = column[index].as_py()
        if value not in tally.examples and len(tally.examples) < MOST_EXAMPLES:
            tally.examples.append(value)


def such_as(tally: Tally) -> str:
    """` such as "Tenmoku"`: the examples of a tally, cut to what a line holds."""
    if not tally.examples:
        return ""
    shown = [
        example if len(example) <= 24 else f"{example[:14]}…{example[-8:]}" for example in tally.examples
    ]
    return ", such as " + ", ".join(f'"{example}"' for example in shown)
