"""What a row can ask of its group: each call, and how its values come from rows that are group by group."""

from __future__ import annotations

from typing import TypeAlias, cast

import numpy as np
import pyarrow as pa

from mangler.expressions.aggregates.aggregate import Columns, Folding
from mangler.expressions.aggregates.bind import BoundAggregate
from mangler.expressions.aggregates.sums import FloatSum
from mangler.expressions.value import Bound, stored_in_places
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.keys import Codes
from mangler.kernels.keys.segments import Segments, latest, shifted
from mangler.late_dataclass import dataclass
from mangler.steps.within.float_sums_so_far import FloatSumRunner
from mangler.steps.within.sorted_rows import Result, Runner, SortedRows
from mangler.table.schema import Column, ValueType


@dataclass(frozen=True)
class OfAggregate:
    """A call whose value an aggregate gives."""

    aggregate: BoundAggregate

    @property
    def name(self) -> str:
        return self.aggregate.name

    @property
    def kind(self) -> ValueType:
        return self.aggregate.reducer.kind

    @property
    def column(self) -> Column:
        return self.aggregate.column


@dataclass(frozen=True)
class GroupValue(OfAggregate):
    """An aggregate over all rows of the group."""

    @property
    def arguments(self) -> tuple[Bound | None, ...]:
        return (self.aggregate.argument, self.aggregate.order)


@dataclass(frozen=True)
class SoFar(OfAggregate):
    """An aggregate over the rows of the group up to this one."""

    @property
    def arguments(self) -> tuple[Bound | None, ...]:
        return (self.aggregate.argument,)

    def runner(self) -> Runner:
        reducer = self.aggregate.reducer
        if isinstance(reducer, FloatSum):
            return FloatSumRunner(reducer.mean)
        return SoFarRunner(cast(Folding, reducer))


@dataclass(frozen=True)
class Beside:
    """The value of a row of the group, at a distance from this one."""

    name: str
    kind: ValueType
    argument: Bound
    distance: int

    @property
    def column(self) -> Column:
        return Column(self.name, self.kind, stored_in_places(self.argument))

    @property
    def arguments(self) -> tuple[Bound | None, ...]:
        return (self.argument,)


@dataclass(frozen=True)
class Previous(Beside):
    """The value of the row so many places before this one in the group."""

    def runner(self) -> Runner:
        return PreviousRunner(self.distance)


@dataclass(frozen=True)
class Next(Beside):
    """The value of the row so many places after this one in the group."""


@dataclass(frozen=True)
class Rank:
    """One more than the number of rows before those that are equal to this one in what the group is sorted by."""

    name: str
    kind = ValueType.INTEGER
    arguments: tuple[Bound | None, ...] = ()

    @property
    def column(self) -> Column:
        return Column(self.name, self.kind)

    def runner(self) -> Runner:
        return RankRunner()


@dataclass(frozen=True)
class RowNumber:
    """The place of the row in its group, from 1."""

    name: str
    kind = ValueType.INTEGER
    arguments: tuple[Bound | None, ...] = ()

    @property
    def column(self) -> Column:
        return Column(self.name, self.kind)

    def runner(self) -> Runner:
        return NumberRunner()


Forward: TypeAlias = SoFar | Previous | Rank | RowNumber
"""Calls whose values are known from the rows so far."""
WindowCall: TypeAlias = GroupValue | Next | Forward


class NumberRunner:
    def take(self, rows: SortedRows, arguments: Columns) -> Result:  # noqa: ARG002
        return Result(pa.array(rows.segments.numbers + 1))


class RankRunner:
    """Remembers the rank that the last row had."""

    def __init__(self) -> None:
        self._last = 0

    def take(self, rows: SortedRows, arguments: Columns) -> Result:  # noqa: ARG002
        first = latest(rows.peers, rows.segments)
        numbers = rows.segments.numbers
        found = np.where(first >= 0, numbers[first] + 1, self._last)
        self._last = int(found[-1]) if len(found) else self._last
        return Result(pa.array(found))


class PreviousRunner:
    """Remembers the last values of the group that may go on."""

    def __init__(self, distance: int) -> None:
        self._distance = distance
        self._before: ColumnArray | None = None

    def take(self, rows: SortedRows, arguments: Columns) -> Result:
        values, segments = arguments[0], rows.segments
        before = self._before if rows.goes_on and self._before is not None else values.slice(0, 0)
        known = len(before)
        whole = pa.concat_arrays([before, values])
        starts = np.append(0, segments.starts[1:] + known) if len(segments.starts) else segments.starts
        moved = shifted(whole, Segments(starts, len(whole)), self._distance).slice(known)
        last = int(starts[-1]) if len(starts) else 0
        self._before = whole.slice(max(last, len(whole) - self._distance))
        return Result(moved)


class SoFarRunner:
    """Remembers the state of the group that may go on."""

    def __init__(self, reducer: Folding) -> None:
        self._reducer = reducer
        self._state: Columns | None = None

    def take(self, rows: SortedRows, arguments: Columns) -> Result:
        segments, reducer = rows.segments, self._reducer
        states = reducer.so_far(segments, reducer.initial_states(arguments[0], None, segments.count))
        if rows.goes_on and self._state is not None:
            states = self._with_before(states, int(segments.lengths[0]))
        self._state = [state.slice(segments.count - 1, 1) for state in states]
        return Result(*reducer.finish(states))

    def _with_before(self, states: Columns, count: int) -> Columns:
        """The states of the first `count` rows with what was before them."""
        assert self._state is not None
        codes: Codes = np.tile(np.arange(count), 2)
        repeated = pa.array(np.zeros(count, np.int64))
        both = [
            pa.concat_arrays([before.take(repeated), own.slice(0, count)])
            for before, own in zip(self._state, states, strict=True)
        ]
        folded = self._reducer.fold(codes, count, both)
        return [pa.concat_arrays([one, own.slice(count)]) for one, own in zip(folded, states, strict=True)]
