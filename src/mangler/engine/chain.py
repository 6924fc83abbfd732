"""Steps one after the other, without threads: what each does is told as it happens."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from time import perf_counter
from typing import Any, TypeAlias, cast

from mangler.engine.plan import PlannedStep, growth_reported
from mangler.table.batch import Batch
from mangler.table.contract import (
    BoundStep,
    CarryingStep,
    Gathering,
    GatheringStep,
    OpenGathering,
    is_open,
)
from mangler.table.room import Room
from mangler.table.schema import Schema
from mangler.table.tally import Tally

Tell: TypeAlias = Callable[[int, Tally, float], None]
"""Called with a step's place, what it did, and the seconds it took."""
GoOn: TypeAlias = Callable[[Schema], Sequence[PlannedStep]]
"""Gives the steps after one whose columns depend on the rows, now that they are known."""


class Chain:
    """Batches pushed in go through all steps; what gathering steps hold goes on when the chain is finished."""

    def __init__(self, steps: Sequence[PlannedStep], tell: Tell, room: Room, go_on: GoOn) -> None:
        self._tell, self._room, self._go_on = tell, room, go_on
        self._steps: list[PlannedStep] = []
        self._carried: dict[int, Any] = {}
        self._gathered: dict[int, Gathering] = {}
        self.settled: list[BoundStep] = []
        """The steps, those whose columns depend on the rows as they are when all were seen."""
        self._add(steps)

    def _add(self, steps: Sequence[PlannedStep]) -> None:
        for planned in steps:
            if hasattr(planned.step, "gather"):
                gathering = cast(GatheringStep, planned.step).gather(self._room)
                self._gathered[len(self._steps)] = gathering
            self._steps.append(planned)
            self.settled.append(planned.step)

    def push(self, batch: Batch, first: int = 0) -> None:
        for index in range(first, len(self._steps)):
            started = perf_counter()
            gathering = self._gathered.get(index)
            if gathering is not None:
                gathering.absorb(batch)
                self._tell(index, Tally(), perf_counter() - started)
                return
            with growth_reported(self._steps[index], batch):
                batch, tally = self._process(index, batch)
            self._tell(index, tally, perf_counter() - started)

    def finish(self) -> None:
        index = 0
        while index < len(self._steps):  # which may become more
            gathering = self._gathered.get(index)
            if gathering is not None:
                self._finish(index, gathering)
            index += 1

    def _finish(self, index: int, gathering: Gathering) -> None:
        started = perf_counter()
        if is_open(self._steps[index].step):
            self.settled[index] = cast(OpenGathering, gathering).settle()
            self._add(self._go_on(self.settled[index].schema))
        for batch in gathering.release():
            self._tell(index, Tally(), perf_counter() - started)
            self.push(batch, index + 1)
            started = perf_counter()
        self._tell(index, gathering.tally, perf_counter() - started)

    def _process(self, index: int, batch: Batch) -> tuple[Batch, Tally]:
        step: Any = self._steps[index].step
        if hasattr(step, "process"):
            return cast(tuple[Batch, Tally], step.process(batch))
        carrying = cast(CarryingStep, step)
        if index not in self._carried:
            self._carried[index] = carrying.start()
        return carrying.carry_on(batch, self._carried[index])
