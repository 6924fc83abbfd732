"""Blocks through the steps, several at once, delivered in their order.

A step that must see all rows ends a stage: its rows are gathered in their order, and what it releases goes through
the next stage in the same way.

Each of a few workers does a whole block: reads it, takes its rows through every step, and renders them. The
calling thread cuts blocks and takes what is ready, so that reading, computing and writing overlap; no more
blocks than workers and one are under way, which bounds memory.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextvars import copy_context
from dataclasses import dataclass, field
from itertools import chain, islice
from time import perf_counter
from typing import TYPE_CHECKING, Any, TypeVar, cast

from mangler.engine.destination import Destination
from mangler.engine.plan import PlannedStep, growth_reported
from mangler.engine.recording import Watcher
from mangler.engine.turnstile import AbandonedError, Turnstile
from mangler.formats.delimited.aside import AsideRows, aside_rows
from mangler.formats.delimited.blocks import Block
from mangler.formats.delimited.parse import Parser
from mangler.table.batch import Batch
from mangler.table.contract import CarryingStep, GatheringStep, StreamingStep
from mangler.table.tally import Tally

WORKERS = 2

if TYPE_CHECKING:
    from concurrent.futures import Future


@dataclass(frozen=True)
class Stage:
    """Steps that rows pass one block at a time, and the gathering step that ends them, but for the last stage."""

    first: int
    """The place of its first step in the plan."""
    steps: tuple[PlannedStep, ...]
    gathers: GatheringStep | None = None


def stages_of(steps: Sequence[PlannedStep]) -> list[Stage]:
    """A plan's steps by stages; at least one."""
    stages, first = [], 0
    for index, planned in enumerate(steps):
        if hasattr(planned.step, "gather"):
            stages.append(Stage(first, tuple(steps[first:index]), cast(GatheringStep, planned.step)))
            first = index + 1
    return [*stages, Stage(first, tuple(steps[first:]))]


@dataclass
class Passed:
    """What became of one batch in a stage."""

    rows: int
    """How many rows came out."""
    batch: Batch | None = None
    """The rows, for a gathering step; what the destination takes is all that is kept of others."""
    tallies: list[Tally] = field(default_factory=list)
    seconds: list[float] = field(default_factory=list)
    prepared: Any = None
    """In the last stage, what the destination takes."""
    preview: Batch | None = None


class StageWork:
    """The work of one stage; the same for all batches, from several threads at once."""

    def __init__(self, stage: Stage, destination: Destination, preview: int) -> None:
        self.stage = stage
        self._destination = destination
        self._preview = preview
        self._turnstiles = {
            index: Turnstile(cast(CarryingStep, planned.step))
            for index, planned in enumerate(stage.steps)
            if hasattr(planned.step, "carry_on")
        }

    def fail(self) -> None:
        """No batch that waits will have its turn."""
        for turnstile in self._turnstiles.values():
            turnstile.fail()

    def process(self, batch: Batch, place: int, next_place: int) -> Passed:
        """`place` and `next_place` are the batch's turn and that of the one after it, from 1."""
        tallies, seconds = [], []
        for index, planned in enumerate(self.stage.steps):
            turnstile = self._turnstiles.get(index)
            if turnstile is not None:
                turnstile.wait_for(place)
            started = perf_counter()
            with growth_reported(planned, batch):
                if turnstile is None:
                    batch, tally = cast(StreamingStep, planned.step).process(batch)
                else:
                    batch, tally = turnstile.pass_through(batch, next_place)
            tallies.append(tally)
            seconds.append(perf_counter() - started)
        if self.stage.gathers is not None:
            return Passed(len(batch), batch, tallies, seconds)
        passed = Passed(len(batch), None, tallies, seconds)
        passed.prepared = self._destination.prepare(batch)
        passed.preview = batch if self._preview else None
        return passed


@dataclass
class BlockResult:
    """What became of one block in the first stage."""

    passed: Passed
    reading: Tally
    reading_seconds: float
    aside: AsideRows | None = None
    unfit: int = 0
    """Rows that had no place in the table."""
    rows_read: int = 0
    padded: int = 0
    bytes_read: int = 0
    last_row: int = 0
    seen: Any = None
    """What the watcher saw."""


@dataclass(frozen=True)
class BlockWork:
    """The work on one block: it is read, and goes through the first stage."""

    parser: Parser
    stage: StageWork
    read_line: int
    watcher: Watcher | None = None

    def __call__(self, block: Block) -> BlockResult:
        try:
            return self._work(block)
        except BaseException:
            self.stage.fail()
            raise

    def _work(self, block: Block) -> BlockResult:
        started = perf_counter()
        parsed = self.parser.parse(block)
        batch = parsed.batch
        reading = Tally(
            rows_in=len(batch) + len(parsed.unfit), rows_out=len(batch), nulls_made=parsed.nulls_made
        )
        seconds = perf_counter() - started
        seen = self.watcher.look(batch) if self.watcher is not None else None
        passed = self.stage.process(batch, block.first_row, block.first_row + block.count)
        result = BlockResult(passed, reading, seconds, seen=seen)
        result.unfit = len(parsed.unfit)
        noted = [(str(self.read_line), parsed.unfit)]
        for planned, tally in zip(self.stage.stage.steps, passed.tallies, strict=True):
            noted.append((planned.statement.label, tally.aside))
        if any(len(notes) for _, notes in noted):
            result.aside = aside_rows(block, noted)
        result.rows_read = reading.rows_in
        result.padded = parsed.padded
        result.bytes_read = block.bytes_read
        result.last_row = block.first_row + block.count - 1
        return result


@dataclass(frozen=True)
class ReleasedWork:
    """The work on a batch that a gathering step released, in the order of their numbers from 1."""

    stage: StageWork

    def __call__(self, item: tuple[int, Batch]) -> Passed:
        try:
            return self.stage.process(item[1], item[0], item[0] + 1)
        except BaseException:
            self.stage.fail()
            raise


Item = TypeVar("Item")
Outcome = TypeVar("Outcome")


def in_order(items: Iterable[Item], work: Callable[[Item], Outcome], workers: int) -> Iterator[Outcome]:
    """The outcomes of all items, in their order. A single item is worked on here, without any thread."""
    source = iter(items)
    ready = list(islice(source, 2))
    if len(ready) < 2 or workers == 1:
        yield from map(work, ready)
        yield from map(work, source)
        return
    from concurrent.futures import ThreadPoolExecutor

    pool = ThreadPoolExecutor(workers, "mangler")
    pending: deque[Future[Outcome]] = deque()
    try:
        for item in chain(ready, source):
            pending.append(pool.submit(copy_context().run, work, item))
            if len(pending) > workers:
                yield _first_result(pending)
        while pending:
            yield _first_result(pending)
    finally:
        pool.shutdown(wait=True, cancel_futures=True)


def _first_result(pending: deque[Future[Outcome]]) -> Outcome:
    """The next outcome in order. An abandoned item raises what went wrong with the one that failed."""
    try:
        return pending.popleft().result()
    except AbandonedError:
        for later in pending:
            error = later.exception()
            if error is not None and not isinstance(error, AbandonedError):
                raise error from None
        raise


def until_row(blocks: Iterator[Block], rows: int | None) -> Iterator[Block]:
    """The blocks that hold the first rows."""
    for block in blocks:
        yield block
        if rows is not None and block.first_row + block.count > rows:
            return
