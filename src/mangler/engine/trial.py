"""Tries steps on the first rows of an extract, and keeps what each of them touched."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, field
from time import perf_counter
from typing import Any, cast

import numpy as np
import pyarrow as pa

from mangler.engine.chain import Chain
from mangler.engine.cuts import Cuts, Cutter, cuts_of
from mangler.engine.differences import Differences
from mangler.engine.memory import half_of_the_machine
from mangler.engine.plan import Plan, PlannedStep, go_on, growth_reported, plan
from mangler.engine.small_run import process_alone
from mangler.engine.summary import COUNTS, StepLine
from mangler.formats.delimited.blocks import BLOCK_SIZE, Block
from mangler.formats.delimited.extract import Extract, open_extract
from mangler.formats.delimited.parse import UnfitRow
from mangler.language.names import columns_spoken_of
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement
from mangler.steps import read as read_verb
from mangler.table.batch import Batch
from mangler.table.contract import BoundStep, CarryingStep, is_open
from mangler.table.gathered import GatheredOrigin, together
from mangler.table.room import Room
from mangler.table.schema import Schema
from mangler.table.small import cells_of
from mangler.table.tally import Tally

SMALL_BLOCK = 1 << 17
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
    cuts: Cuts | None = None
    """Of a split: its cells."""
    table: Batch | None = None
    """The first rows that come out, of a step that makes another table or order of the rows."""
    whole: StepLine | None = None
    """Over the whole file, where that was asked for."""

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
            "cuts": [asdict(cut) for cut in self.cuts.cells] if self.cuts else None,
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
    """Rows among those tried that have no place in the table."""

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
            "steps": [step.to_json() for step in self.steps],
        }


def attempt(
    path: str,
    recipe: ParsedRecipe,
    steps: Sequence[Statement],
    rows: int | None = None,
    whole: bool = False,
    progress: Callable[[int, int], None] | None = None,
) -> Trial:
    """Runs the recipe's steps, and then these, on the first rows of an extract.

    `rows` is how many; without it as many as it takes to see each step change something, at least a block, up to
    FURTHEST_ROW. With `whole` the steps are counted over the rest of the file as well.
    """
    settings = read_verb.settings(recipe.only("read"))
    extract = open_extract(path, settings, SMALL_BLOCK if not whole else BLOCK_SIZE, None if whole else rows)
    try:
        planned = plan(recipe, Schema.of_text(extract.names), extract.hint, steps)
        trying = _Attempt(extract, recipe, planned, len(steps), rows, whole, progress)
        try:
            return trying.run()
        finally:
            trying.room.close()
    finally:
        extract.close()


class _Attempt:
    def __init__(
        self,
        extract: Extract,
        recipe: ParsedRecipe,
        planned: Plan,
        tried: int,
        rows: int | None,
        whole: bool,
        progress: Callable[[int, int], None] | None,
    ) -> None:
        self.extract, self.rows, self.whole, self.progress = extract, rows, whole, progress
        self.recipe, self.rest, self.is_open = recipe, planned.rest, planned.is_open
        self.whole_rest = planned.rest
        self.first = len(planned.steps) + len(planned.rest) - tried
        self.carried: dict[int, Any] = {}
        self.gathers = any(hasattr(step.step, "gather") for step in planned.steps)
        self.sample: list[Batch] = []
        self.room = Room(half_of_the_machine() // 2)
        self.whole_chain = Chain(planned.steps if whole else [], self._count, self.room, self._go_on_whole)
        self.trial = Trial(extract.name, [])
        self.steps: list[PlannedStep] = []
        self.schema = Schema.of_text(extract.names)
        self._add(planned.steps)

    def _add(self, steps: Sequence[PlannedStep]) -> None:
        for planned in steps:
            if len(self.steps) >= self.first:
                tried = StepTrial(planned, self.schema, planned.step.schema, tried=StepLine(0, planned.text))
                tried.cuts = cuts_of(planned.step, self.schema)
                tried.whole = StepLine(0, planned.text) if self.whole else None
                self.trial.steps.append(tried)
            self.steps.append(planned)
            self.schema = planned.step.schema

    def _settle(self, index: int, step: BoundStep) -> None:
        """All rows of the sample came to a step whose columns depend on them: those after it can be bound."""
        planned = self.steps[index] = PlannedStep(self.steps[index].statement, step)
        if index >= self.first:
            tried = self.trial.steps[index - self.first]
            tried.planned, tried.after, tried.cuts = planned, step.schema, cuts_of(step, tried.before)
        self.schema = step.schema
        more = go_on(self.recipe, self.rest, step.schema)
        self.rest = more.rest
        self._add(more.steps)

    def _go_on_whole(self, schema: Schema) -> Sequence[PlannedStep]:
        more = go_on(self.recipe, self.whole_rest, schema)
        self.whole_rest = more.rest
        return more.steps

    def run(self) -> Trial:
        trial = self.trial
        seen, searching = 0, True
        for block in self.extract.blocks():
            parsed = self.extract.parser.parse(block)
            batch = parsed.batch
            if searching and self.rows is not None and block.first_row + block.count - 1 > self.rows:
                first = int((batch.rows <= self.rows).sum())
                self._take(batch.slice(0, first), sample=True)
                batch = batch.slice(first, len(batch) - first)
                trial.unfit += parsed.unfit_rows(last=self.rows)
                trial.rows_tried, searching = self.rows, False
            if searching:
                trial.unfit += parsed.unfit_rows()
                trial.rows_tried = block.first_row + block.count - 1
            if searching or self.whole:
                self._take(batch, searching)
            seen = block.first_row + block.count - 1
            if self.progress:
                self.progress(seen, block.bytes_read)
            searching = searching and self._goes_on(block)
            if not searching and not self.whole:
                break
        else:
            trial.rows_in_extract = seen
        if self.sample or self.is_open:
            self._show(together(self.sample or [self._no_rows()], GatheredOrigin(self.extract.name)))
        if self.whole:
            self.whole_chain.finish()
        for index, step in enumerate(trial.steps, self.first):
            step.tried.close(step.planned.step)
            step.tried.remarks += step.tried.warnings
            if step.whole:
                step.whole.close(self.whole_chain.settled[index])
                step.whole.remarks += step.whole.warnings
        return trial

    def _no_rows(self) -> Batch:
        columns = tuple(pa.array([], pa.string()) for _ in self.extract.names)
        return Batch(columns, np.empty(0, np.int64), GatheredOrigin(self.extract.name))

    def _goes_on(self, block: Block) -> bool:
        """Whether more rows are to be shown from."""
        if block.last:
            return True
        seen = block.first_row + block.count - 1
        if self.rows is not None:
            return seen < self.rows
        if self.gathers:
            return seen < FURTHEST_GATHERED
        return seen < FURTHEST_ROW and not all(step.differences.any for step in self.trial.steps)

    def _take(self, batch: Batch, sample: bool) -> None:
        if self.whole:
            self.whole_chain.push(batch)
        if sample and self.gathers:
            self.sample.append(batch)
        elif sample:
            self._show(batch)

    def _show(self, batch: Batch) -> None:
        """Takes rows of the sample through all steps, and keeps what each touched."""
        index = 0
        while index < len(self.steps):  # which may become more
            planned = self.steps[index]
            started = perf_counter()
            with growth_reported(planned, batch):
                after, tally, settled = self._process(index, planned, batch)
            if is_open(planned.step):
                self._settle(index, settled)
                planned = self.steps[index]
            if index >= self.first:
                step = self.trial.steps[index - self.first]
                step.tried.tally.add(tally)
                step.tried.seconds += perf_counter() - started
                named = columns_spoken_of(planned.statement)
                if getattr(planned.step, "makes_table", False):
                    step.table = after.slice(0, MOST_TABLE_ROWS)
                else:
                    step.differences.note(batch, after, (step.before, step.after), named)
                if step.cuts is not None:
                    step.cuts.note(cast(Cutter, planned.step), batch)
            batch = after
            index += 1

    def _process(self, index: int, planned: PlannedStep, batch: Batch) -> tuple[Batch, Tally, BoundStep]:
        if not hasattr(planned.step, "carry_on"):
            return process_alone(planned.step, batch)
        step = cast(CarryingStep, planned.step)
        if index not in self.carried:
            self.carried[index] = step.start()
        return *step.carry_on(batch, self.carried[index]), step

    def _count(self, index: int, tally: Tally, seconds: float) -> None:
        """Adds to a step's line over the whole file."""
        if index >= self.first:
            line = self.trial.steps[index - self.first].whole
            assert line is not None
            line.tally.add(tally)
            line.seconds += seconds


def _line_to_json(line: StepLine) -> dict[str, Any]:
    tally = line.tally
    counts = {key: value for key, value in asdict(tally).items() if key in COUNTS}
    failures = [{"row": row, "line": at, "reason": reason} for row, at, reason in tally.failures]
    told = {"failed": tally.failed, "failures": failures, "set_aside": tally.set_aside}
    return {**counts, **told, "seconds": round(line.seconds, 6), "facts": line.facts, "remarks": line.remarks}
