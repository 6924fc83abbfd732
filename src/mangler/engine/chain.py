"""Steps one after the other, without threads: what each does is told as it happens."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from time import perf_counter
from typing import Any, cast

from mangler.engine.plan import PlannedStep
from mangler.table.batch import Batch
from mangler.table.contract import CarryingStep, Gathering, GatheringStep
from mangler.table.room import Room
from mangler.table.tally import Tally

Tell = Callable[[int, Tally, float], None]
"""Called with a step's place, what it did, and the seconds it took."""


class Chain:
    """Batches pushed in go through all steps; what gathering steps hold goes on when the chain is finished."""

    def __init__(self, steps: Sequence[PlannedStep], tell: Tell, room: Room) -> None:
        self._steps, self._tell = steps, tell
        self._carried: dict[int, Any] = {}
        self._gathered: dict[int, Gathering] = {
            index: cast(GatheringStep, planned.step).gather(room)
            for index, planned in enumerate(steps)
            if hasattr(planned.step, "gather")
        }

    def push(self, batch: Batch, first: int = 0) -> None:
        for index in range(first, len(self._steps)):
            started = perf_counter()
            gathering = self._gathered.get(index)
            if gathering is not None:
                gathering.absorb(batch)
                self._tell(index, Tally(), perf_counter() - started)
                return
            batch, tally = self._process(index, batch)
            self._tell(index, tally, perf_counter() - started)

    def finish(self) -> None:
        for index, gathering in self._gathered.items():
            started = perf_counter()
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
