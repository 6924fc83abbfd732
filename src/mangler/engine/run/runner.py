"""Takes rows through the steps of a plan: the one interpreter of steps, for run, try, look and test.

A step that must see all rows ends a stage. Rows go through the steps of a stage one partition at a time, in several
threads if that is wanted; then the gathering step absorbs them in their order. When all are absorbed, the rows that
it releases go through the next stage in the same way.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import field, replace
from functools import partial
from time import perf_counter
from typing import Any, Protocol

from mangler.engine.plan.plan import Plan, PlannedStep, growth_reported
from mangler.engine.run.absorbing import InTurn
from mangler.engine.run.ordered_gate import OrderedGate
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.fields import FieldFacts, known_of
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.contract import (
    BoundStep,
    Early,
    EarlyStep,
    Gathering,
    GatheringStep,
    OrderedStep,
    RowStep,
    Step,
)
from mangler.table.in_order import in_order
from mangler.table.memory_budget import MemoryBudget
from mangler.table.packing import MixedOrigin
from mangler.table.schema import Schema
from mangler.table.spillable_rows import concat_batches
from mangler.table.state import StateReader
from mangler.table.stored_types import empty_columns
from mangler.table.tally import Tally

BindMore = Callable[[tuple[Statement, ...], Schema], Plan]
"""Binds the statements after a step whose columns depend on the rows, now that these columns are known."""


@dataclass(frozen=True)
class Stage:
    """Steps that rows pass one partition at a time, and the gathering step that ends them, except for the last."""

    first: int
    """The index of its first step in the plan."""
    steps: tuple[PlannedStep, ...]
    gathers: GatheringStep | None = None

    @property
    def gatherer(self) -> int:
        """The index of its gathering step in the plan."""
        return self.first + len(self.steps)


def first_stage(
    steps: Sequence[PlannedStep], first: int = 0, early_budget: MemoryBudget | None = None
) -> Stage:
    """The stage that starts with this step. With a budget one step that can let rows go early does not end it."""
    found: list[PlannedStep] = []
    for planned in steps[first:]:
        step = planned.step
        if not isinstance(step, GatheringStep):
            found.append(planned)
            continue
        early = None
        if isinstance(step, EarlyStep) and early_budget is not None:
            early, early_budget = step.early(early_budget), None
        if early is None:
            return Stage(first, tuple(found), step)
        found.append(replace(planned, step=early))
    return Stage(first, tuple(found))


def most_at_once(steps: Sequence[BoundStep]) -> int:
    """How many steps may hold rows at once: one releases its own, one lets them go early, and one gathers."""
    holding = [step for step in steps if isinstance(step, GatheringStep)]
    return min(len(holding), 3 if any(isinstance(step, EarlyStep) for step in holding) else 2)


@dataclass
class Passed:
    """What happened to one batch in a stage."""

    rows: int
    """How many rows came out."""
    batch: Batch | None
    """The rows; None where `encode` made something else of them."""
    tallies: list[Tally] = field(default_factory=list)
    seconds: list[float] = field(default_factory=list)
    batches: list[Batch] = field(default_factory=list)
    """If batches are kept: the rows that came in, and the rows that came out of each step."""
    encoded: ColumnArray = None
    """In the last stage, what `encode` gave."""
    nulls: tuple[int, ...] = ()
    """Beside it, the null cells of each column."""
    first: int = 0
    """The step of the stage that the tallies begin with."""


def nulls_of(batch: Batch) -> tuple[int, ...]:
    """The null cells of each column."""
    return tuple(
        one.nulls if isinstance(one, FieldFacts) else one.null_count for one in known_of(batch.columns)
    )


class Listener(Protocol):
    """Who hears what steps do. All calls come from one thread, in the order of the rows."""

    def step_done(
        self, index: int, tally: Tally, seconds: float, before: Batch | None, after: Batch | None
    ) -> None:
        """A step has worked on some rows. The batches are given only if they are kept."""
        ...

    def step_resolved(self, index: int, step: Step) -> None:
        """All rows came to a step whose columns depend on them: this is the step as it is now."""
        ...

    def plan_grown(self, more: Plan) -> None:
        """Further steps were bound."""
        ...

    def rows_out(self, passed: Passed) -> None:
        """Rows came out of the last step."""
        ...


class StageWork:
    """The work of one stage; the same for all batches, from several threads at once."""

    def __init__(self, stage: Stage, encode: Callable[[Batch], Any] | None, keep_batches: bool) -> None:
        self.stage = stage
        self._encode, self._keep_batches = encode, keep_batches
        self._gates = {
            index: OrderedGate(planned.step)
            for index, planned in enumerate(stage.steps)
            if isinstance(planned.step, OrderedStep)
        }

    def __call__(self, item: tuple[int, Batch]) -> Passed:
        """The work on a batch; `item` is the number of its partition, from 0, and the batch."""
        return self.go_on(0, item)

    def go_on(self, first: int, item: tuple[int, Batch]) -> Passed:
        """The same, from this step of the stage on."""
        try:
            return self._process(first, *item)
        except BaseException:
            self.fail()
            raise

    def fail(self) -> None:
        """No batch that waits will have its turn."""
        for gate in self._gates.values():
            gate.fail()

    def _process(self, first: int, partition: int, batch: Batch) -> Passed:
        passed = Passed(0, None, first=first)
        if self._keep_batches:
            passed.batches.append(batch)
        for index, planned in enumerate(self.stage.steps[first:], first):
            with growth_reported(planned, batch):
                batch, tally, seconds = self._step(index, planned.step, partition, batch)
            passed.tallies.append(tally)
            passed.seconds.append(seconds)
            if self._keep_batches:
                passed.batches.append(batch)
        if self.stage.gathers is not None and self.stage.gathers.keeps_rows:
            batch = batch.made()  # they are kept long, and what they were read from is large
        passed.rows, passed.batch = len(batch), batch
        if self.stage.gathers is None and self._encode is not None:
            passed.encoded, passed.nulls = self._encode(batch), nulls_of(batch)
            passed.batch = None
        return passed

    def _step(self, index: int, step: BoundStep, partition: int, batch: Batch) -> tuple[Batch, Tally, float]:
        """The rows that come out of one step, the counts, and the seconds of work, without those of waiting."""
        started = perf_counter()
        if isinstance(step, RowStep):
            return *step.process(batch), perf_counter() - started
        assert isinstance(step, OrderedStep)
        own = step.summarise(batch)
        seconds = perf_counter() - started
        self._gates[index].wait_for(partition)
        started = perf_counter()
        after, tally = self._gates[index].run_in_turn(batch, own)
        return after, tally, seconds + perf_counter() - started


class StepRunner:
    """Takes batches through all steps of a plan.

    `encode` makes of the rows that come out what is wanted, in the thread that worked on them. With `absorbing`
    gathering steps take rows on in another thread. With `whole_batches` a gathering step's rows go on as one batch,
    also where there are none; with `keep_batches` the listener sees them. `early`: steps that can let rows go before
    they have seen all do so; the listener hears of them as of others.
    """

    def __init__(
        self,
        plan: Plan,
        listener: Listener,
        budget: MemoryBudget,
        bind_more: BindMore,
        encode: Callable[[Batch], Any] | None = None,
        keep_batches: bool = False,
        whole_batches: bool = False,
        absorbing: InTurn | None = None,
        early: bool = False,
    ) -> None:
        self._early, self._accepted = early, 0
        self._steps, self._rest = list(plan.steps), plan.rest
        self._listener, self._budget, self._bind_more = listener, budget, bind_more
        self.encode, self._keep_batches, self._whole_batches = encode, keep_batches, whole_batches
        self._absorbed: list[Batch] = []
        self._absorbing = absorbing or InTurn(at_once=True)
        self._begin(0)

    def _begin(self, first: int) -> None:
        stage = first_stage(self._steps, first, self._budget if self._early else None)
        self.work = StageWork(stage, self.encode, self._keep_batches)
        self._accepted = 0
        self._gathering: Gathering | None = stage.gathers.gather(self._budget) if stage.gathers else None

    def push(self, partition: int, batch: Batch) -> None:
        """Takes a batch through the first stage, in this thread. Partitions come in order, from 0."""
        self.accept(partition, self.work((partition, batch)))

    def accept(self, partition: int, passed: Passed) -> None:
        """Takes on a batch that passed the stage; called in the order of the partitions."""
        stage, batches = self.work.stage, passed.batches
        self._accepted = partition + 1
        for number, (tally, seconds) in enumerate(
            zip(passed.tallies, passed.seconds, strict=True), passed.first
        ):
            before, after = batches[number : number + 2] if batches else (None, None)
            self._listener.step_done(stage.first + number, tally, seconds, before, after)
        if self._gathering is None:
            self._listener.rows_out(passed)
            return
        batch = passed.batch
        if batch is None:  # it was gathered elsewhere, and comes with `merge`
            return
        if self._keep_batches:
            self._absorbed.append(batch)
        gathering, planned = self._gathering, self._steps[stage.gatherer]

        def absorb() -> float:
            started = perf_counter()
            with growth_reported(planned, batch):
                gathering.absorb(batch, partition)
            return perf_counter() - started

        def note(seconds: float) -> None:
            self._listener.step_done(stage.gatherer, Tally(), seconds, None, None)

        self._absorbing.add(absorb, note)

    def merge(self, state: StateReader, seconds: float) -> None:
        """Takes on what the gathering step of this stage has gathered elsewhere, of the partitions that come next."""
        stage = self.work.stage
        assert stage.gathers is not None and self._gathering is not None
        self._absorbing.finish()
        started = perf_counter()
        gathered = stage.gathers.gather(self._budget)
        gathered.load(state)
        self._gathering.merge(gathered)
        self._listener.step_done(stage.gatherer, Tally(), seconds + perf_counter() - started, None, None)

    def finish(self, workers: int = 1) -> None:
        """All batches were taken on: what gathering steps hold goes through the stages after them."""
        self._release_held(workers)
        while self._gathering is not None:
            self._absorbing.finish()
            gathering, index = self._gathering, self.work.stage.gatherer
            schema = self._settle(gathering, index)
            absorbed, self._absorbed = self._absorbed, []
            self._begin(index + 1)
            released: Iterator[Batch] = self._timed(gathering.release(), index)
            kept: list[Batch] = []
            if self._whole_batches:
                kept = [_in_one(list(released), schema)]
                released = iter(kept)
                before = concat_batches(absorbed, MixedOrigin()) if absorbed else None
                self._listener.step_done(index, gathering.tally, 0.0, before, kept[0])
            for partition, passed in enumerate(in_order(enumerate(released), self.work, workers)):
                self.accept(partition, passed)
            if not self._whole_batches:
                self._listener.step_done(index, gathering.tally, 0.0, None, None)
            self._release_held(workers)

    def _release_held(self, workers: int) -> None:
        """What a step of this stage held back goes through the steps after it, behind all that passed before."""
        stage = self.work.stage
        for number, planned in enumerate(stage.steps):
            if not isinstance(planned.step, Early):
                continue
            go_on = partial(self.work.go_on, number + 1)
            held = self._timed(planned.step.held(), stage.first + number)
            for partition, passed in enumerate(
                in_order(enumerate(held, self._accepted), go_on, workers), self._accepted
            ):
                self.accept(partition, passed)
            self._listener.step_done(stage.first + number, planned.step.tally, 0.0, None, None)

    def _settle(self, gathering: Gathering, index: int) -> Schema:
        """All rows came to a step; where its columns depend on them, the steps after it can be bound now."""
        resolved = gathering.settle()
        if resolved is None:
            return self._steps[index].step.schema
        self._listener.step_resolved(index, resolved)
        more = self._bind_more(self._rest, resolved.schema)
        self._steps += more.steps
        self._rest = more.rest
        self._listener.plan_grown(more)
        return resolved.schema

    def _timed(self, released: Iterator[Batch], index: int) -> Iterator[Batch]:
        """The rows that a step releases; the seconds that it takes are its own."""
        while True:
            started = perf_counter()
            batch = next(released, None)
            self._listener.step_done(index, Tally(), perf_counter() - started, None, None)
            if batch is None:
                return
            yield batch


def _in_one(batches: list[Batch], schema: Schema) -> Batch:
    """All these rows in one batch; an empty one with these columns where there are none."""
    if batches:
        return concat_batches(batches, MixedOrigin(batches[0].origin.file))
    return Batch.empty(empty_columns(schema))
