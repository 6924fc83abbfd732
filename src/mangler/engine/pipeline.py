"""Blocks through the steps, several at once, delivered in their order.

Each of a few workers does a whole block: reads it, takes its rows through every step, and renders them. The
calling thread cuts blocks and takes what is ready, so that reading, computing and writing overlap; no more
blocks than workers and one are under way, which bounds memory.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from time import perf_counter
from typing import Any, cast

from mangler.engine.destination import Destination
from mangler.engine.plan import Plan
from mangler.engine.turnstile import Turnstile
from mangler.formats.delimited.aside import AsideRow
from mangler.formats.delimited.blocks import Block
from mangler.formats.delimited.parse import Parser
from mangler.table.batch import Batch
from mangler.table.contract import CarryingStep, StreamingStep
from mangler.table.tally import Tally

WORKERS = 2


@dataclass
class BlockResult:
    """What became of one block."""

    prepared: Any
    reading: Tally
    reading_seconds: float
    tallies: list[Tally] = field(default_factory=list)
    seconds: list[float] = field(default_factory=list)
    aside: list[AsideRow] = field(default_factory=list)
    unfit: int = 0
    """Rows that had no place in the table."""
    rows_read: int = 0
    rows_delivered: int = 0
    padded: int = 0
    bytes_read: int = 0
    last_row: int = 0
    preview: Batch | None = None


@dataclass(frozen=True)
class BlockWork:
    """The work on one block; the same for all, from several threads at once."""

    parser: Parser
    plan: Plan
    destination: Destination
    read_line: int
    preview: int
    """So many of the rows that come out are kept to be shown."""

    turnstiles: dict[int, Turnstile] = field(init=False)
    """For the plan's carrying steps, by their place in the plan."""

    def __post_init__(self) -> None:
        carrying = {
            index: Turnstile(cast(CarryingStep, planned.step))
            for index, planned in enumerate(self.plan.steps)
            if hasattr(planned.step, "carry_on")
        }
        object.__setattr__(self, "turnstiles", carrying)

    def __call__(self, block: Block) -> BlockResult:
        try:
            return self._work(block)
        except BaseException:
            for turnstile in self.turnstiles.values():
                turnstile.fail()
            raise

    def _work(self, block: Block) -> BlockResult:
        started = perf_counter()
        parsed = self.parser.parse(block)
        batch = parsed.batch
        reading = Tally(
            rows_in=len(batch) + len(parsed.unfit), rows_out=len(batch), nulls_made=parsed.nulls_made
        )
        result = BlockResult(None, reading, perf_counter() - started)
        for index, planned in enumerate(self.plan.steps):
            turnstile = self.turnstiles.get(index)
            if turnstile is None:
                started = perf_counter()
                batch, tally = cast(StreamingStep, planned.step).process(batch)
            else:
                turnstile.wait_for(block.first_row)
                started = perf_counter()
                batch, tally = turnstile.pass_through(batch, block.first_row + block.count)
            result.tallies.append(tally)
            result.seconds.append(perf_counter() - started)
        result.prepared = self.destination.prepare(batch)
        result.unfit = len(parsed.unfit)
        told = [(unfit.row, str(self.read_line), unfit.reason) for unfit in parsed.unfit]
        for planned, tally in zip(self.plan.steps, result.tallies, strict=True):
            told += [(row, planned.statement.label, reason) for row, reason in tally.aside]
        result.aside = [
            AsideRow(row, block.line_of(row), step, reason, block.as_read(row))
            for row, step, reason in sorted(told)
        ]
        result.rows_read = reading.rows_in
        result.rows_delivered = len(batch)
        result.padded = parsed.padded
        result.bytes_read = block.bytes_read
        result.last_row = block.first_row + block.count - 1
        result.preview = batch if self.preview else None
        return result


def results(
    blocks: Iterator[Block], work: Callable[[Block], BlockResult], workers: int, rows: int | None
) -> Iterator[BlockResult]:
    """The results of all blocks, in order. A single block is worked on here, without any thread."""
    wanted = _until(blocks, rows)
    first = next(wanted, None)
    if first is None:
        return
    if first.last or workers == 1:
        yield work(first)
        yield from map(work, wanted)
        return
    from concurrent.futures import Future, ThreadPoolExecutor

    pool = ThreadPoolExecutor(workers, "mangler")
    pending: deque[Future[BlockResult]] = deque([pool.submit(work, first)])
    try:
        for block in wanted:
            pending.append(pool.submit(work, block))
            if len(pending) > workers:
                yield pending.popleft().result()
        while pending:
            yield pending.popleft().result()
    finally:
        pool.shutdown(wait=True, cancel_futures=True)


def _until(blocks: Iterator[Block], rows: int | None) -> Iterator[Block]:
    for block in blocks:
        yield block
        if rows is not None and block.first_row + block.count > rows:
            return
