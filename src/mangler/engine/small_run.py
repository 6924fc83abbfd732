"""Runs steps over a few rows that stand in no file: those of a test."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

import numpy as np
import pyarrow as pa

from mangler.engine.plan import bind_steps
from mangler.language.mistake import Refusal
from mangler.language.statement import Statement
from mangler.language.tables import Cell, SmallTable
from mangler.table.batch import Batch
from mangler.table.contract import CarryingStep, StreamingStep
from mangler.table.schema import Schema
from mangler.table.tally import Tally


class NoFile:
    """The origin of rows that stand in no file."""

    def as_read(self, row: int) -> bytes:  # noqa: ARG002
        return b""

    def line_of(self, row: int) -> int:
        return row


@dataclass(frozen=True)
class SmallResult:
    """What came out, and what the steps remark on their work."""

    names: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]
    remarks: tuple[str, ...]


def run_small(statements: Sequence[Statement], table: SmallTable) -> SmallResult:
    """Takes a table through steps. Raises a Refusal where they do not fit its columns."""
    schema = Schema.of_text(table.names)
    bound = bind_steps(statements, schema)
    if bound.mistakes:
        raise Refusal(bound.mistakes, max(bound.codes))
    columns = [pa.array([row[i] for row in table.rows], pa.string()) for i in range(len(table.heads))]
    batch = Batch(tuple(columns), np.arange(1, len(table.rows) + 1, dtype=np.int64), NoFile())
    remarks: list[str] = []
    for planned in bound.steps:
        batch, tally = process_alone(planned.step, batch)
        remarks += [f"line {planned.statement.line} {remark}" for remark in planned.step.remarks(tally)]
    cells = [column.to_pylist() for column in batch.columns]
    rows = tuple(tuple(column[i] for column in cells) for i in range(len(batch)))
    return SmallResult(tuple(bound.schema.names), rows, tuple(remarks))


def process_alone(step: StreamingStep | CarryingStep, batch: Batch) -> tuple[Batch, Tally]:
    """A step's work on a batch that is all there is."""
    if hasattr(step, "carry_on"):
        carrying = cast(CarryingStep, step)
        return carrying.carry_on(batch, carrying.start())
    return step.process(batch)
