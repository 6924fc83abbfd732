"""Lets blocks through a carrying step one at a time and in the order of their rows."""

from __future__ import annotations

from threading import Condition

from mangler.table.batch import Batch
from mangler.table.contract import CarryingStep
from mangler.table.tally import Tally


class AbandonedError(Exception):
    """An earlier block failed, so this one will never have its turn."""


class Turnstile:
    """One for each carrying step of a run. Blocks are known by the numbers of their extract rows."""

    def __init__(self, step: CarryingStep) -> None:
        self._step = step
        self._carried = step.start()
        self._next_row = 1
        self._failed = False
        self._turn = Condition()

    def wait_for(self, first_row: int) -> None:
        """Waits until all rows before this one have passed."""
        with self._turn:
            self._turn.wait_for(lambda: self._failed or self._next_row == first_row)
            if self._failed:
                raise AbandonedError

    def pass_through(self, batch: Batch, next_row: int) -> tuple[Batch, Tally]:
        """The step's work, by the block whose turn it is; `next_row` is the first row of the next block."""
        passed = self._step.carry_on(batch, self._carried)
        with self._turn:
            self._next_row = next_row
            self._turn.notify_all()
        return passed

    def fail(self) -> None:
        """No block that waits will have its turn."""
        with self._turn:
            self._failed = True
            self._turn.notify_all()
