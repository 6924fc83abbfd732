"""Runs steps over a few rows that stand in no file: those of a test."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, cast

import numpy as np
import pyarrow as pa

from mangler.engine.plan import PlannedStep, bind_steps, growth_reported
from mangler.language.mistake import ExitCode, Mistake, Refusal
from mangler.language.statement import Statement
from mangler.language.tables import Cell, SmallTable
from mangler.table.batch import Batch
from mangler.table.contract import BoundStep, CarryingStep, GatheringStep, OpenGathering, is_open
from mangler.table.gathered import GatheredOrigin, together
from mangler.table.room import Room
from mangler.table.schema import Schema
from mangler.table.small import cells_of, column_of, schema_of
from mangler.table.tally import Tally
from mangler.table.types import ARROW


class NoFile:
    """The origin of rows that stand in no file."""

    file = ""

    def as_read(self, row: int) -> bytes:  # noqa: ARG002
        return b""

    def line_of(self, row: int) -> int:
        return row


@dataclass(frozen=True)
class SmallResult:
    """What came out, and what the steps remark on their work."""

    schema: Schema
    columns: tuple[Any, ...]
    rows: tuple[tuple[Cell, ...], ...]
    asides: tuple[str, ...]
    """The reasons of rows set aside, in the order of the rows."""
    remarks: tuple[str, ...]

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(self.schema.names)


def run_small(statements: Sequence[Statement], table: SmallTable) -> SmallResult:
    """Takes a table through steps. Raises a Refusal where they do not fit its columns."""
    schema = schema_of(table)
    columns = [column_of(table, index) for index in range(len(table.heads))]
    batch = Batch(tuple(columns), np.arange(1, len(table.rows) + 1, dtype=np.int64), NoFile())
    remarks: list[str] = []
    asides: list[tuple[int, str]] = []
    while statements:  # more than once only where columns come of rows
        bound = bind_steps(statements, schema)
        if bound.mistakes:
            raise Refusal(bound.mistakes, max(bound.codes))
        statements, schema = bound.rest, bound.schema
        for planned in bound.steps:
            with growth_reported(planned, batch):
                batch, tally, step = process_alone(planned.step, batch)
            asides += list(tally.aside)
            if tally.failed:
                raise Refusal([_failure(planned, tally)], ExitCode.ANSWER_IS_NO)
            if hasattr(step, "verdict") and (why := step.verdict(tally)):
                way = f"Give it other rows, or write {planned.ways_out}."
                raise Refusal([Mistake(why, way, planned.statement.place)], ExitCode.ANSWER_IS_NO)
            remarks += [f"line {planned.statement.label}: {remark}" for remark in step.remarks(tally)]
            schema = step.schema
    cells = [cells_of(column) for column in batch.columns]
    rows = tuple(tuple(column[i] for column in cells) for i in range(len(batch)))
    told = tuple(reason for _, reason in sorted(asides))
    return SmallResult(schema, batch.columns, rows, told, tuple(remarks))


def _failure(planned: PlannedStep, tally: Tally) -> Mistake:
    told = "; ".join(f"row {row}: {why}" for row, _, why in tally.failures)
    return Mistake(
        f"this step fails on {tally.failed} of the rows: {told}",
        f"Give it other rows, or say what becomes of them: {planned.ways_out}.",
        planned.statement.place,
    )


def process_alone(step: BoundStep, batch: Batch) -> tuple[Batch, Tally, BoundStep]:
    """A step's work on a batch that is all there is, and the step as it is after it."""
    if hasattr(step, "gather"):
        return _gather_alone(cast(GatheringStep, step), batch)
    if hasattr(step, "carry_on"):
        carrying = cast(CarryingStep, step)
        return *carrying.carry_on(batch, carrying.start()), step
    return *step.process(batch), step


def _gather_alone(step: GatheringStep, batch: Batch) -> tuple[Batch, Tally, BoundStep]:
    room = Room()
    try:
        gathering = step.gather(room)
        gathering.absorb(batch)
        settled: BoundStep = cast(OpenGathering, gathering).settle() if is_open(step) else step
        released = list(gathering.release())
        if released:
            return together(released, GatheredOrigin(batch.origin.file)), gathering.tally, settled
        columns = tuple(pa.array([], ARROW[column.type]) for column in settled.schema.columns)
        return Batch(columns, batch.rows[:0], batch.origin), gathering.tally, settled
    finally:
        room.close()
