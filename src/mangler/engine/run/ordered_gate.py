"""Lets partitions through an ordered step one at a time, in the order of their rows."""

from __future__ import annotations

from threading import Condition
from typing import Any

from mangler.table.batch import Batch
from mangler.table.contract import OrderedStep
from mangler.table.in_order import AbandonedError
from mangler.table.tally import Tally


class OrderedGate:
    """One for each ordered step of a stage. Partitions are numbered from 0, without gaps."""

    def __init__(self, step: OrderedStep[Any]) -> None:
        self._step = step
        self._before = step.initial()
        self._next = 0
        self._failed = False
        self._turn = Condition()

    def wait_for(self, partition: int) -> None:
        """Waits until all partitions before this one have passed."""
        with self._turn:
            self._turn.wait_for(lambda: self._failed or self._next == partition)
            if self._failed:
                raise AbandonedError

    def run_in_turn(self, batch: Batch, own: Any) -> tuple[Batch, Tally]:
        """The step's work on the partition whose turn it is; `own` is the state of its rows."""
        passed = self._step.apply(batch, self._before, own)
        self._before = self._step.combine(self._before, own)
        with self._turn:
            self._next += 1
            self._turn.notify_all()
        return passed

    def fail(self) -> None:
        """No partition that waits will have its turn."""
        with self._turn:
            self._failed = True
            self._turn.notify_all()
