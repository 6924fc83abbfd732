"""One extract on its way through a plan: its partitions are read, cleaned, and handed to a sink."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from time import perf_counter
from typing import TYPE_CHECKING, Any

from mangler.engine.plan.plan import Plan, go_on
from mangler.engine.run.absorbing import InTurn
from mangler.engine.run.account import Account, ReadCounts
from mangler.engine.run.memory import LEAST, half_of_the_machine
from mangler.engine.run.options import RunOptions
from mangler.engine.run.runner import Passed, Stage, StepRunner, most_at_once
from mangler.formats.aside import AsideFile, AsideRow, AsideRows, aside_rows
from mangler.formats.contract import ParsedBatch, Partition, Sink, Source
from mangler.formats.reading import read_partitions
from mangler.kernels.text.growth import bounded
from mangler.language.recipe import ParsedRecipe
from mangler.late_dataclass import dataclass
from mangler.steps import read as read_verb
from mangler.table.batch import Batch
from mangler.table.contract import Step
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Schema
from mangler.table.stored_types import stored_batch
from mangler.table.tally import Tally

if TYPE_CHECKING:
    from mangler.engine.run.piece_work import OfPartition, OfPiece
    from mangler.engine.run.spread import Spread

SHARE = 2
"""Of the memory, what a step may make of the rows that it sees at once."""


@dataclass(frozen=True)
class PartitionResult:
    """What happened to one partition in the first stage; its rows are not kept."""

    index: int
    read: ReadCounts
    aside: AsideRows | None
    """Rows that are set aside; None where there are none."""
    observed: Any
    """What the watcher saw."""
    passed: Passed


class Executor:
    """Reads a source to its end through a plan. `open_with` is called when the columns that come out are known."""

    def __init__(
        self,
        recipe: ParsedRecipe,
        source: Source,
        sink: Sink,
        open_with: Callable[[Schema], None],
        aside: AsideFile,
        options: RunOptions,
        reading: str = "",
        spread: Spread | None = None,
    ) -> None:
        """`reading`: what the summary calls the reading, where that is not the recipe's `read`.

        With `spread` others do the work on pieces of the extract, where it can be divided.
        """
        self._spread = spread
        self._recipe, self._source, self._sink = recipe, source, sink
        self._open_with, self._aside, self._options = open_with, aside, options
        self._read_label = str(read_verb.settings(recipe.only("read")).line)
        self.account = Account(recipe, source, reading)
        self.schema = source.schema
        """The columns that come out."""
        self.rows_aside: list[AsideRow] = []
        self.preview: list[Batch] = []
        self._encoding: list[float] = []
        """Seconds of each batch, added by many threads."""

    def run(self, plan: Plan) -> None:
        """Takes the source's rows through all steps."""
        self.plan_grown(plan)
        memory = self._options.memory or half_of_the_machine()
        steps = [step.step for step in plan.steps]
        # Steps that are not bound yet may be such that hold rows, of any kind.
        at_once = max(1, 3 if plan.rest else most_at_once(steps))
        budget = MemoryBudget(memory // at_once, self._options.workers)
        with bounded(max(memory, LEAST) // SHARE):
            try:
                with InTurn(at_once=self._options.workers == 1) as absorbing:
                    self._run(plan, budget, absorbing)
            finally:
                budget.close()
        writing = self.account.summary.writing
        started = perf_counter()
        self._sink.finish(self._source)
        writing.seconds += perf_counter() - started + sum(self._encoding)

    def _run(self, plan: Plan, budget: MemoryBudget, absorbing: InTurn) -> None:
        options, watcher = self._options, self._options.watcher
        runner = StepRunner(
            plan,
            self,
            budget,
            lambda rest, schema: go_on(self._recipe, rest, schema),
            self._encode,
            absorbing=absorbing,
            early=self._spread is None,
        )
        work, stage = runner.work, runner.work.stage

        def read(partition: Partition) -> PartitionResult:
            try:
                started = perf_counter()
                parsed = self._source.read(partition)
                seconds = perf_counter() - started
                observed = watcher.observe(parsed.batch) if watcher is not None else None
                passed = work((partition.index, parsed.batch))
                counts = ReadCounts.of(parsed, seconds)
                aside = self._set_aside(partition, parsed, stage, passed)
                return PartitionResult(partition.index, counts, aside, observed, passed)
            except BaseException:
                work.fail()
                raise

        if watcher is not None:
            watcher.begin(self._source.schema, self._source.details)
        if self._spread is not None and self._run_spread(self._spread, plan, runner):
            return
        for result in read_partitions(self._source, read, options.workers, options.rows, options.progress):
            if watcher is not None:
                watcher.collect(result.observed)
            self._take(result)
            runner.accept(result.index, result.passed)
        if watcher is not None:
            watcher.end()
        runner.finish(options.workers)

    def _run_spread(self, spread: Spread, plan: Plan, runner: StepRunner) -> bool:
        """Lets others work on pieces of the extract; whether it could be divided."""
        why = spread.why_not(self._source)
        pieces = spread.pieces(self._source) if why is None else why
        if isinstance(pieces, str):
            if pieces:
                self.account.remarks.append(f"worked on in one place: {pieces}")
            return False
        options, watcher = self._options, self._options.watcher
        work = spread.work(plan, runner.work.stage, self._source, pieces[1])

        def note(index: int, one: OfPartition) -> None:
            if watcher is not None:
                watcher.collect(one.observed)
            self._take(PartitionResult(index, one.read, one.aside, None, Passed(one.rows, None)))
            if options.progress is not None:
                options.progress(one.last_row, one.bytes_read)

        from mangler.engine.run.spread import taken_on

        results = spread.workforce.map_ordered(work, pieces[0])
        taken_on(self._timed(results), pieces[0], self._source, work, runner, note, options.workers)
        if watcher is not None:
            watcher.end()
        runner.finish(options.workers)
        return True

    def _timed(self, results: Iterable[OfPiece]) -> Iterator[OfPiece]:
        for one in results:
            self._encoding.append(one.encoding)
            yield one

    def _encode(self, batch: Batch) -> tuple[Any, Batch | None]:
        """What the sink writes, and the rows themselves where some are kept to be shown."""
        started = perf_counter()
        encoded = self._sink.encode(stored_batch(batch, self.schema))
        self._encoding.append(perf_counter() - started)
        return encoded, batch if self._options.preview else None

    def _set_aside(
        self, partition: Partition, parsed: ParsedBatch, stage: Stage, passed: Passed
    ) -> AsideRows | None:
        """The rows of a partition that reading or a step sets aside."""
        noted = [(self._read_label, parsed.unfit)]
        for planned, tally in zip(stage.steps, passed.tallies, strict=True):
            noted.append((planned.statement.label, tally.aside))
        if not any(len(notes) for _, notes in noted):
            return None
        return aside_rows(partition, noted)

    def _take(self, result: PartitionResult) -> None:
        """Accounts for the rows that were read, and sets rows aside."""
        self.account.note_reading(result.read)
        if result.aside is None:
            return
        self.account.note_aside(result.aside)
        if self._options.keep_aside:
            self.rows_aside += result.aside.first(len(result.aside))
        started = perf_counter()
        self._aside.add(result.aside)
        self.account.summary.setting_aside.seconds += perf_counter() - started

    # What the runner tells

    def step_done(
        self,
        index: int,
        tally: Tally,
        seconds: float,
        before: Batch | None,  # noqa: ARG002
        after: Batch | None,  # noqa: ARG002
    ) -> None:
        self.account.note_step(index, tally, seconds)

    def step_resolved(self, index: int, step: Step) -> None:
        self.account.resolved[index] = step

    def plan_grown(self, more: Plan) -> None:
        """Takes in steps that are bound; with the last of them the columns are known that come out."""
        self.account.add_steps(more)
        self.schema = more.schema
        if not more.is_open:
            self._open_with(more.schema)

    def rows_out(self, passed: Passed) -> None:
        encoded, batch = passed.encoded
        self.account.note_rows_out(passed.rows, passed.nulls)
        started = perf_counter()
        self._sink.write(encoded)
        self.account.summary.writing.seconds += perf_counter() - started
        if batch is not None and sum(map(len, self.preview)) < self._options.preview:
            self.preview.append(batch.made())
