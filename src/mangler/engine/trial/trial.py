"""Tries steps on the first rows of an extract, and keeps what each of them touched."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict, field
from typing import Any

from mangler.engine.plan.plan import Plan, PlannedStep, go_on, plan
from mangler.engine.run.memory import half_of_the_machine
from mangler.engine.run.runner import Passed, StepRunner
from mangler.engine.run.summary import COUNTS, StepLine
from mangler.engine.trial.differences import Differences
from mangler.engine.trial.split_preview import SplitPreview, split_preview_of
from mangler.engine.trial.written import MOST_WRITTEN, Written, lists_not_written, written
from mangler.formats.contract import PARTITION_SIZE, ParsedBatch, Partition, ReadRequest, Source, UnfitRow
from mangler.formats.reading import read_partitions
from mangler.formats.registry import open_source
from mangler.language.names import columns_mentioned
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps import read as read_verb
from mangler.table.batch import Batch
from mangler.table.contract import GatheringStep, Step
from mangler.table.memory_budget import MemoryBudget
from mangler.table.packing import MixedOrigin
from mangler.table.read_words import read_statement
from mangler.table.schema import Schema
from mangler.table.small import cells_of
from mangler.table.spillable_rows import concat_batches
from mangler.table.stored_types import empty_columns
from mangler.table.tally import Tally

SMALL_PARTITION = 1 << 17
FURTHEST_GATHERED = 10_000
"""So many rows are read where a step must see all of them first, if no number was asked for."""
MOST_TABLE_ROWS = 10
FURTHEST_ROW = 100_000
"""So many rows are read in search of something to show, if no number was asked for."""


@dataclass
class StepTrial:
    """One step that was tried: what it touched, and its line of the summary."""

    planned: PlannedStep
    before: Schema
    after: Schema
    differences: Differences = field(default_factory=Differences)
    tried: StepLine = field(default_factory=lambda: StepLine(0, ""))
    """Over the rows tried."""
    split_preview: SplitPreview | None = None
    """Of a split: its cells."""
    table: Batch | None = None
    """The first rows that come out, of a step that makes another table or order of the rows."""
    whole: StepLine | None = None
    """Over the whole file, where that was asked for."""
    resolved: Step | None = None
    """Of a step whose columns depend on the rows: as it is when all rows of the sample were seen."""
    resolved_whole: Step | None = None
    """The same over the whole file."""

    @property
    def bound(self) -> Step:
        """The step as it worked on the sample."""
        return self.resolved or self.planned.step

    def to_json(self) -> dict[str, Any]:
        found = self.differences
        return {
            "step": self.planned.text,
            "columns_come": list(found.come),
            "columns_gone": list(found.gone),
            "columns_renamed": [list(pair) for pair in found.renamed],
            "columns_retyped": [list(triple) for triple in found.retyped],
            "cells": [asdict(change) for change in found.cells.values()],
            "rows": [asdict(row) for row in found.rows],
            "table": None if self.table is None else self._table_to_json(self.table),
            "cuts": [asdict(cut) for cut in self.split_preview.cells] if self.split_preview else None,
            "tried": _line_to_json(self.tried),
            "whole_file": _line_to_json(self.whole) if self.whole else None,
        }

    def _table_to_json(self, table: Batch) -> list[dict[str, Any]]:
        cells = [cells_of(column) for column in table.columns]
        rows = [dict(zip(self.after.names, row, strict=True)) for row in zip(*cells, strict=True)]
        return [{"row": int(row), "cells": own} for row, own in zip(table.rows, rows, strict=True)]


@dataclass
class Trial:
    extract: str
    steps: list[StepTrial]
    rows_tried: int = 0
    rows_in_extract: int | None = None
    """Known where the file was read to its end."""
    unfit: list[UnfitRow] = field(default_factory=list)
    """Rows among those tried that do not fit in the table."""
    read_as: str = ""
    """The read statement that says what was detected and a run would not detect; empty where there is none."""
    written: Written | None = None
    """What a `write` that was tried would make of the first rows."""
    lists: str = ""
    """Why a run could not write the table that comes out: lists in a format without them. Empty where it could."""

    @property
    def fails(self) -> bool:
        """Whether a run of these steps would deliver nothing."""
        return any((step.whole or step.tried).tally.failed for step in self.steps)

    def to_json(self) -> dict[str, Any]:
        """The documented shape of `mangler try --json`."""
        return {
            "extract": self.extract,
            "rows_tried": self.rows_tried,
            "rows_in_extract": self.rows_in_extract,
            "unfit": [asdict(row) for row in self.unfit],
            "read_as": self.read_as or None,
            "steps": [step.to_json() for step in self.steps],
            "written": asdict(self.written) if self.written else None,
            "lists": self.lists or None,
        }


def attempt(
    path: str,
    recipe: ParsedRecipe,
    steps: Sequence[Statement],
    rows: int | None = None,
    whole: bool = False,
    progress: Callable[[int, int], None] | None = None,
    write: Statement | None = None,
) -> Trial:
    """Runs the recipe's steps, and then these, on the first rows of an extract; then `write`, into a temporary file.

    `rows` is how many; without it as many as it takes to see each step change something, at least a block, up to
    FURTHEST_ROW. With `whole` the steps are counted over the rest of the file as well.
    """
    settings = read_verb.settings(recipe.only("read"))
    size = PARTITION_SIZE if whole else SMALL_PARTITION
    source = open_source(path, ReadRequest(settings, size, None if whole else rows, survey=True))
    budget = MemoryBudget(half_of_the_machine() // 2)
    try:
        planned = plan(recipe, source.schema, source.explain_missing, steps)
        going = _Attempt(source, recipe, planned, len(steps), rows, whole, budget)
        trial = going.run(progress)
        if write is not None:
            trial.written = written(source, going.schema, going.first_out, write)
        else:
            trial.lists = lists_not_written(source, going.schema, recipe.only("write"))
        trial.read_as = read_statement(source.read_as) if source.layout_found else ""
        return trial
    finally:
        budget.close()
        source.close()


class _Attempt:
    """One attempt; it listens to the steps that take the rows of the sample."""

    def __init__(
        self,
        source: Source,
        recipe: ParsedRecipe,
        planned: Plan,
        tried: int,
        rows: int | None,
        whole: bool,
        budget: MemoryBudget,
    ) -> None:
        self._source, self._rows, self._whole = source, rows, whole
        self._first = len(planned.steps) + len(planned.rest) - tried
        self._gathers = any(isinstance(step.step, GatheringStep) for step in planned.steps)
        self._is_open = planned.is_open
        self._sample: list[Batch] = []
        self._schema = source.schema
        self._count = 0
        self.trial = Trial(source.name, [])
        self.first_out: list[Batch] = []
        """The first rows that come out of the last step."""

        def bind_more(rest: tuple[Statement, ...], schema: Schema) -> Plan:
            return go_on(recipe, rest, schema)

        self.plan_grown(planned)
        self._runner = StepRunner(planned, self, budget, bind_more, keep_batches=True, whole_batches=True)
        self._whole_file = _WholeFile(self.trial, self._first)
        self._whole_runner = (
            StepRunner(planned, self._whole_file, budget, bind_more, encode=lambda _: None) if whole else None
        )

    # What the runner reports about the sample

    def plan_grown(self, more: Plan) -> None:
        for planned in more.steps:
            if self._count >= self._first:
                tried = StepTrial(planned, self._schema, planned.step.schema, tried=StepLine(0, planned.text))
                tried.split_preview = split_preview_of(planned.step, self._schema)
                tried.whole = StepLine(0, planned.text) if self._whole else None
                self.trial.steps.append(tried)
            self._count += 1
            self._schema = planned.step.schema

    def step_resolved(self, index: int, step: Step) -> None:
        if index >= self._first:
            tried = self.trial.steps[index - self._first]
            tried.resolved, tried.after = step, step.schema
            tried.split_preview = split_preview_of(step, tried.before)
        self._schema = step.schema

    def step_done(
        self, index: int, tally: Tally, seconds: float, before: Batch | None, after: Batch | None
    ) -> None:
        """Keeps what a step touched."""
        if index < self._first:
            return
        step = self.trial.steps[index - self._first]
        step.tried.tally.add(tally)
        step.tried.seconds += seconds
        if before is None or after is None:
            return
        if step.bound.makes_table:
            step.table = after.slice(0, MOST_TABLE_ROWS)
        else:
            named = columns_mentioned(step.planned.statement)
            step.differences.note(before, after, (step.before, step.after), named)
        if step.split_preview is not None:
            step.split_preview.note(before)

    def rows_out(self, passed: Passed) -> None:
        left = MOST_WRITTEN - sum(map(len, self.first_out))
        if passed.batch is not None and left > 0:
            self.first_out.append(passed.batch.slice(0, left))

    @property
    def schema(self) -> Schema:
        """The columns that come out."""
        return self._schema

    # The rows

    def run(self, progress: Callable[[int, int], None] | None) -> Trial:
        trial, searching, seen = self.trial, True, 0

        def read(partition: Partition) -> tuple[Partition, ParsedBatch]:
            return partition, self._source.read(partition)

        for partition, parsed in read_partitions(self._source, read, progress=progress):
            batch, last_row = parsed.batch, partition.first_row + partition.row_count - 1
            seen = last_row
            if searching and self._rows is not None and last_row > self._rows:
                first = int((batch.rows <= self._rows).sum())
                self._take(partition.index, batch, batch.slice(0, first))
                trial.unfit += parsed.unfit_rows(last=self._rows)
                trial.rows_tried, searching = self._rows, False
            elif searching:
                self._take(partition.index, batch, batch)
                trial.unfit += parsed.unfit_rows()
                trial.rows_tried = last_row
                searching = self._goes_on(partition)
            else:
                self._take(partition.index, batch, None)
            if not searching and not self._whole:
                break
        else:
            trial.rows_in_extract = seen
        self._finish()
        return trial

    def _take(self, partition: int, batch: Batch, sample: Batch | None) -> None:
        """Takes on the rows of a partition, and those of them that belong to the sample."""
        if self._whole_runner is not None:
            self._whole_runner.push(partition, batch)
        if sample is not None and self._gathers:
            self._sample.append(sample)
        elif sample is not None:
            self._runner.push(partition, sample)

    def _finish(self) -> None:
        if self._sample or self._is_open:
            batches = self._sample or [self._no_rows()]
            self._runner.push(0, concat_batches(batches, MixedOrigin(self._source.name)))
            self._runner.finish()
        if self._whole_runner is not None:
            self._whole_runner.finish()
        for step in self.trial.steps:
            for line, bound in (
                (step.tried, step.bound),
                (step.whole, step.resolved_whole or step.planned.step),
            ):
                if line is not None:
                    line.close(bound.report(line.tally))
                    line.remarks = [*step.planned.oversights, *line.remarks, *line.warnings]

    def _no_rows(self) -> Batch:
        return Batch.empty(empty_columns(self._source.schema))

    def _goes_on(self, partition: Partition) -> bool:
        """Whether the sample takes in the partition after this one."""
        if partition.is_last:
            return True
        seen = partition.first_row + partition.row_count - 1
        if self._rows is not None:
            return seen < self._rows
        if self._gathers:
            return seen < FURTHEST_GATHERED
        return seen < FURTHEST_ROW and not all(step.differences.any for step in self.trial.steps)


class _WholeFile:
    """Listens to the steps that take all rows of the file, and counts what they do."""

    def __init__(self, trial: Trial, first: int) -> None:
        self._trial, self._first = trial, first

    def plan_grown(self, more: Plan) -> None:
        pass

    def step_resolved(self, index: int, step: Step) -> None:
        if index >= self._first:
            self._trial.steps[index - self._first].resolved_whole = step

    def step_done(
        self,
        index: int,
        tally: Tally,
        seconds: float,
        before: Batch | None,  # noqa: ARG002
        after: Batch | None,  # noqa: ARG002
    ) -> None:
        if index >= self._first:
            line = self._trial.steps[index - self._first].whole
            assert line is not None
            line.tally.add(tally)
            line.seconds += seconds

    def rows_out(self, passed: Passed) -> None:
        pass


def _line_to_json(line: StepLine) -> dict[str, Any]:
    tally = line.tally
    counts = {name: tally.count(name) for name in COUNTS}
    failures = [{"row": row, "line": at, "reason": reason} for row, at, reason in tally.failures]
    failing = {"failed": tally.failed, "failures": failures, "set_aside": tally.set_aside}
    return {
        **counts,
        **failing,
        "seconds": round(line.seconds, 6),
        "facts": line.facts,
        "remarks": line.remarks,
    }
