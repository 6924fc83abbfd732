"""Runs steps over a few rows that are in no file: those of a test."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mangler.engine.plan.plan import Plan, PlannedStep, bind_steps
from mangler.engine.run.runner import Passed, StepRunner
from mangler.kernels.arrow import ColumnArray
from mangler.language.mistake import ExitCode, Mistake, Refusal
from mangler.language.statement import Statement
from mangler.language.tables import Cell, SmallTable
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch, NoOrigin
from mangler.table.contract import Step
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Schema
from mangler.table.small import cells_of, column_of, schema_of
from mangler.table.tally import Tally


@dataclass(frozen=True)
class InMemoryResult:
    """What came out, and what the steps remark on their work."""

    schema: Schema
    columns: tuple[ColumnArray, ...]
    rows: tuple[tuple[Cell, ...], ...]
    asides: tuple[str, ...]
    """The reasons of rows set aside, in the order of the rows."""
    remarks: tuple[str, ...]

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(self.schema.names)


class _Steps:
    """Listens to the steps of one table; the first step that fails ends the run."""

    def __init__(self) -> None:
        self.steps: list[PlannedStep] = []
        self.resolved: dict[int, Step] = {}
        self.asides: list[tuple[int, str]] = []
        self.remarks: list[str] = []
        self.schema = Schema(())
        self.out: Batch | None = None

    def step_done(
        self,
        index: int,
        tally: Tally,
        seconds: float,  # noqa: ARG002
        before: Batch | None,  # noqa: ARG002
        after: Batch | None,
    ) -> None:
        if after is None:
            return
        planned = self.steps[index]
        self.asides += list(tally.aside)
        if tally.failed:
            raise Refusal([_failure(planned, tally)], ExitCode.ANSWER_IS_NO)
        step = self.resolved.get(index, planned.step)
        report = step.report(tally)
        if report.verdict:
            way = f"Give it other rows, or write {report.ways_out}."
            raise Refusal(
                [Mistake("rows-not-as-required", report.verdict, way, planned.statement.span)],
                ExitCode.ANSWER_IS_NO,
            )
        self.remarks += [f"line {planned.statement.label}: {remark}" for remark in report.remarks]

    def step_resolved(self, index: int, step: Step) -> None:
        self.resolved[index] = step

    def plan_grown(self, more: Plan) -> None:
        self.steps += more.steps
        self.schema = more.schema

    def rows_out(self, passed: Passed) -> None:
        self.out = passed.batch


def run_in_memory(statements: Sequence[Statement], table: SmallTable) -> InMemoryResult:
    """Takes a table through steps. Raises a Refusal where they do not fit its columns."""
    columns = tuple(column_of(table, index) for index in range(len(table.heads)))
    batch = Batch(columns, np.arange(1, len(table.rows) + 1, dtype=np.int64), NoOrigin())
    steps, budget = _Steps(), MemoryBudget()
    plan = _bind(tuple(statements), schema_of(table))
    steps.plan_grown(plan)
    try:
        runner = StepRunner(plan, steps, budget, _bind, keep_batches=True, whole_batches=True)
        runner.push(0, batch)
        runner.finish()
    finally:
        budget.close()
    out = steps.out
    assert out is not None
    cells = [cells_of(column) for column in out.columns]
    rows = tuple(tuple(column[i] for column in cells) for i in range(len(out)))
    reasons = tuple(reason for _, reason in sorted(steps.asides))
    return InMemoryResult(steps.schema, tuple(out.columns), rows, reasons, tuple(steps.remarks))


def _bind(statements: tuple[Statement, ...], schema: Schema) -> Plan:
    bound = bind_steps(statements, schema)
    if bound.mistakes:
        raise Refusal(bound.mistakes, max(bound.codes))
    return Plan(bound.steps, bound.schema, bound.rest)


def _failure(planned: PlannedStep, tally: Tally) -> Mistake:
    message = "; ".join(f"row {row}: {why}" for row, _, why in tally.failures)
    return Mistake(
        "rows-fail",
        f"this step fails on {tally.failed} of the rows: {message}",
        f"Give it other rows, or say what happens to them: {planned.step.report(tally).ways_out}.",
        planned.statement.span,
    )
