"""Gathers rows, and hands each on with what its calls gave: the frame of all steps that look at a row's group."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import TypeAlias

import numpy as np

from mangler.expressions.value import Failure, only_where
from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.text_view import Flags
from mangler.language.mistake import wrong_recipe
from mangler.language.statement import Statement
from mangler.steps.shared.conditions import Condition, evaluate
from mangler.steps.shared.failing import Policy, settle_failures, take_out
from mangler.steps.within.sorted_rows import Result
from mangler.steps.within.waiting_rows import WindowedRows
from mangler.steps.within.windows import Windows
from mangler.table.batch import Batch
from mangler.table.contract import Gathering
from mangler.table.memory_budget import MemoryBudget
from mangler.table.state import StateReader, StateWriter
from mangler.table.tally import Tally

Made: TypeAlias = Callable[[Batch, Flags | None, Sequence[Result], Tally], Batch]
"""Makes what comes out of some rows: which of them are seen (None: all), the values of the calls, and the tally."""


class WithinGathering(Gathering):
    """The rows of one run. The arguments of the calls are worked out as the rows come in."""

    def __init__(
        self,
        windows: Windows,
        condition: Condition | None,
        policy: Policy,
        made: Made,
        budget: MemoryBudget,
        prepare: Callable[[Batch], Batch] | None = None,
    ) -> None:
        self._windows, self._condition, self._policy, self._made = windows, condition, policy, made
        self._prepare = prepare
        self._rows = WindowedRows(windows, budget)
        self.tally = Tally()

    def absorb(self, batch: Batch, partition: int) -> None:
        tally = self.tally
        tally.rows_in += len(batch)
        if self._prepare is not None:
            batch = self._prepare(batch)
        met: Flags | None = None
        if self._condition is not None:
            batch, met = self._condition.test(batch, tally)
        values, failures = [], list[Failure]()
        names = self._windows.before.names
        for call in self._windows.calls:
            for argument in call.arguments:
                if argument is None:
                    continue
                value = evaluate(argument, batch, names)
                failed = value.failures if met is None else only_where(value.failures, met)
                failures += failed
                array = value.settled(len(batch))
                values.append(settle_failures(array, None, failed, _for_arguments(self._policy), tally))
        batch, stay = take_out(batch, failures, self._policy, tally)
        if stay is not None:
            kept = from_numpy(stay)
            values = [array.filter(kept) for array in values]
            met = None if met is None else met[np.asarray(stay)]
        self._rows.add(batch, values, met, partition)

    def merge(self, later: WithinGathering) -> None:
        self.tally.add(later.tally)
        self._rows.merge(later._rows)

    def dump(self, state: StateWriter) -> None:
        state.record(self.tally.to_record())
        self._rows.dump(state)

    def load(self, state: StateReader) -> None:
        self.tally.add(Tally.from_record(state.record()))
        self._rows.load(state)

    def release(self) -> Iterator[Batch]:
        for batch, met, values in self._rows.release():
            counted = Tally()
            out = self._made(batch, None if self._condition is None else met, values, counted)
            counted.rows_in = 0
            counted.rows_out = len(out)
            self.tally.add(counted)
            yield out


def _for_arguments(policy: Policy) -> Policy:
    """What an argument becomes that fails: the value of `failures` is for the new cells, and not for arguments."""
    return Policy("null") if policy.name == "value" else policy


def refuse_aside_within(statement: Statement) -> None:
    """A step that must see all rows first sets none aside."""
    if statement.values.get("failures") == "aside":
        raise wrong_recipe(
            "aside-within",
            "rows cannot be set aside where each one's group must be seen first",
            "Say failures null, or convert the column before, with its own failures.",
            statement.span_of("failures"),
        )
