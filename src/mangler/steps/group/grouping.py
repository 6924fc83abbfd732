"""Rows brought together by keys: what `group` and `pivot` do alike."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from functools import partial
from typing import Any, TypeAlias, cast

import numpy as np
import pyarrow as pa

from mangler.expressions.aggregates.aggregate import Collecting, Folding, is_folding
from mangler.expressions.aggregates.bind import BoundAggregate
from mangler.expressions.value import Bound, Failure, stored_in_places
from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.keys import folded, keys_of
from mangler.kernels.taking import take
from mangler.kernels.text.text_view import TooLargeError
from mangler.kernels.values.convert import cast_exactly
from mangler.kernels.values.format_values import format_values
from mangler.language.mistake import Refusal, extract_does_not_fit
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass
from mangler.steps.group.collected import Arranged, RowFold, nothing_of, numbered
from mangler.steps.group.numbered import Gathered, NumberedRows
from mangler.steps.shared.case_twins import CaseTwins
from mangler.steps.shared.conditions import evaluate
from mangler.steps.shared.failing import Policy, settle_failures, take_out
from mangler.table.batch import Batch
from mangler.table.contract import Gathering
from mangler.table.in_order import in_order
from mangler.table.memory_budget import MemoryBudget
from mangler.table.partitioned_fold import Fold, PartitionedFold, in_first_seen_order
from mangler.table.positions import positions_of
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.spillable_rows import BLOCK, rows_per_block
from mangler.table.state import StateReader, StateWriter
from mangler.table.tally import Tally

Value: TypeAlias = tuple[ColumnArray, tuple[Failure, ...]]
"""What an aggregate makes of groups."""
ROWS_AT_A_TIME = 1 << 16
"""Groups that are finished together, at most."""


@dataclass(frozen=True)
class Groups:
    """How rows become groups: by which columns, with which aggregates, and what is made from those."""

    before: Schema
    keys: tuple[int, ...]
    anycase: bool
    aggregates: tuple[BoundAggregate, ...]
    made: tuple[tuple[str, Bound], ...]
    policy: Policy
    span: SourceSpan

    @property
    def schema(self) -> Schema:
        """The keys, and then what is made."""
        new = [
            Column(name, bound.kind or ValueType.TEXT, stored_in_places(bound)) for name, bound in self.made
        ]
        columns = (*(self.before.columns[index] for index in self.keys), *new)
        names = {column.name for column in columns}
        lost = [(c.name, self.span.line) for c in self.before.columns if c.name not in names]
        return Schema(columns, tuple(pair for pair in (*self.before.gone, *lost) if pair[0] not in names))

    @property
    def folding(self) -> list[tuple[BoundAggregate, Folding]]:
        return [(a, cast(Folding, a.reducer)) for a in self.aggregates if is_folding(a.reducer)]

    @property
    def collecting(self) -> list[tuple[BoundAggregate, Collecting]]:
        return [(a, cast(Collecting, a.reducer)) for a in self.aggregates if not is_folding(a.reducer)]


class Grouping(Gathering):
    """The rows of one run: a table with one row per group, and one for each aggregate that keeps rows of its own.

    The first one's columns are the keys as they are compared, the keys as they were first where that differs, the
    place of the group's first row among all, and the states of aggregates.
    """

    def __init__(self, groups: Groups, budget: MemoryBudget) -> None:
        self.groups = groups
        self.tally = Tally()
        self._budget = budget
        self._keys = len(groups.keys)
        self._shown = self._keys if groups.anycase else 0
        self._names = tuple(groups.before.names)
        self._is_empty = True
        self._twins = CaseTwins(wanted=False)
        self._widths: list[int] = []
        tables: list[Fold | None] = [self._fold_groups]
        tables += [
            RowFold(reducer, self._keys) if reducer.folds else None for _, reducer in groups.collecting
        ]
        self._tables = PartitionedFold(tables, self._keys, budget)
        self._numbered: NumberedRows | None = None
        """All rows, as long as they are in memory and have keys; then they are in the tables."""
        if self._keys and compiled.seen is not None:
            self._numbered = NumberedRows(
                [reducer for _, reducer in groups.folding],
                [reducer for _, reducer in groups.collecting],
                self._keys,
                self._tables.origin,
            )

    # Rows that come in

    def absorb(self, batch: Batch, partition: int) -> None:
        groups, tally = self.groups, self.tally
        tally.rows_in += len(batch)
        values: list[ColumnArray] = []
        failures: list[Failure] = []
        for aggregate in groups.aggregates:
            for bound in (aggregate.argument, aggregate.order):
                values.append(None if bound is None else self._value(bound, batch, failures))
        batch, stay = take_out(batch, failures, groups.policy, tally)
        if stay is not None:
            values = [None if value is None else value.filter(from_numpy(stay)) for value in values]
        given = {}
        for number, aggregate in enumerate(groups.aggregates):
            value, order = values[2 * number : 2 * number + 2]
            given[aggregate.name] = (value, order)
            if value is not None and aggregate.skips_nulls and value.null_count:
                tally.histogram("nulls_skipped")[aggregate.text] += value.null_count
        standing = [batch.columns[index] for index in groups.keys]
        keys = [folded(column, groups.anycase) for column in standing]
        tally.rows_merged += len(batch)
        position = positions_of(partition, len(batch))
        self._is_empty &= not len(batch)
        states: list[ColumnArray] = []
        self._widths = []
        for aggregate, reducer in groups.folding:
            lifted = reducer.initial_states(*given[aggregate.name], len(batch))
            self._widths.append(len(lifted))
            states += lifted
        shown = standing if self._shown else []
        collected = [
            collecting.collect(*given[aggregate.name]) for aggregate, collecting in groups.collecting
        ]
        try:
            if self._numbered is not None:
                self._tables.origin.file = self._tables.origin.file or batch.origin.file
                firsts = [*shown, from_numpy(position)]
                self._numbered.add(batch, keys, firsts, states, self._widths, collected)
                self._limit_memory(self._numbered)
                return
            batches = [Batch((*keys, *shown, from_numpy(position), *states), batch.rows, batch.origin)]
            for rows, columns in collected:
                every = len(rows) == len(batch) and bool((rows == np.arange(len(rows))).all())
                carried = keys if every else [take(key, rows) for key in keys]
                batches.append(Batch((*carried, *columns), batch.rows[rows], batch.origin))
            self._tables.add(batches)
        except TooLargeError:
            raise self._too_large("") from None

    def _limit_memory(self, numbered: NumberedRows) -> None:
        limit = self._budget.memory_limit
        if numbered.size <= limit:
            return
        numbered.fold()
        if numbered.size > limit // 4:
            self._to_tables()

    def _to_tables(self) -> None:
        """From now on rows are in the tables, which may have files."""
        rows, self._numbered = self._numbered, None
        if rows is not None and rows.count:
            for number, batch in rows.with_keys():
                self._tables.add_to(number, batch)

    def merge(self, later: Grouping) -> None:
        self.tally.add(later.tally)
        self._is_empty &= later._is_empty
        self._widths = self._widths or later._widths
        self._to_tables()
        later._to_tables()
        self._tables.merge(later._tables)

    def dump(self, state: StateWriter) -> None:
        state.record({"tally": self.tally.to_record(), "empty": self._is_empty, "widths": self._widths})
        self._to_tables()
        self._tables.dump(state)

    def load(self, state: StateReader) -> None:
        record = state.record()
        self.tally.add(Tally.from_record(record["tally"]))
        self._is_empty &= record["empty"]
        self._widths = self._widths or record["widths"]
        self._to_tables()
        self._tables.load(state)

    def _value(self, bound: Bound, batch: Batch, failures: list[Failure]) -> ColumnArray:
        value = evaluate(bound, batch, self._names)
        failures += value.failures
        array = value.settled(len(batch))
        return settle_failures(array, None, value.failures, self.groups.policy, self.tally)

    def _fold_groups(self, batch: Batch) -> Batch:
        """One row per group."""
        keys = keys_of(batch.columns[: self._keys], len(batch))
        start = self._keys + self._shown + 1
        columns = [take(column, keys.first) for column in batch.columns[:start]]
        for (_, reducer), width in zip(self.groups.folding, self._widths, strict=True):
            columns += reducer.fold(keys.codes, keys.count, list(batch.columns[start : start + width]))
            start += width
        return Batch(tuple(columns), batch.rows[keys.first], batch.origin)

    # Groups that go out

    def release(self) -> Iterator[Batch]:
        """The groups, in the order of their first rows; the place of that row goes before they are handed on."""
        if self._is_empty:
            yield from self._of_nothing()
            return
        twins = CaseTwins(wanted=not self.groups.anycase)
        self._twins = twins
        try:
            if self._numbered is not None:
                groups, rest = self._numbered.groups(), self._numbered.gathered()
                self._numbered = None
                for batch in self._finished(groups, rest):
                    yield batch.with_columns(batch.columns[:-1])
            else:
                yield from in_first_seen_order(
                    self._tables, self._of_tables, len(self.groups.schema.columns), self._budget.share(2)
                )
        except TooLargeError:
            raise self._too_large("") from None
        twins.note(self.tally)

    def _of_nothing(self) -> Iterator[Batch]:
        """Without rows there are no groups; but without keys there is one, of no rows."""
        if self._keys:
            return
        states: list[ColumnArray] = []
        self._widths = []
        for aggregate, reducer in self.groups.folding:
            value, order = (nothing_of(bound) for bound in (aggregate.argument, aggregate.order))
            folded_states = reducer.fold(np.empty(0, np.int64), 1, reducer.initial_states(value, order, 0))
            self._widths.append(len(folded_states))
            states += folded_states
        one = Batch((pa.array([0]), *states), np.zeros(1, np.int64), self._tables.origin)
        self.tally.rows_added += 1
        self.tally.rows_merged += 1
        for batch in self._finished(one, [None] * len(self.groups.collecting)):
            yield batch.with_columns(batch.columns[:-1])

    def _of_tables(self, portion: Sequence[Batch | None]) -> Iterator[Batch]:
        main, *others = portion
        if main is not None:
            yield from self._finished(main, [numbered(main, other, self._keys) for other in others])

    def _finished(self, main: Batch, gathered: Sequence[Gathered | None]) -> Iterator[Batch]:
        """The groups of these rows, of which each is one, with what the collecting aggregates have gathered."""
        self._twins.add(main.columns[: self._keys])
        count, names = len(main), [column.name for column in self.groups.schema.columns[: self._keys]]
        start = self._keys + self._shown
        shown = main.columns[self._keys : start] if self._shown else main.columns[: self._keys]
        known = dict(zip(names, shown, strict=True))
        position = main.columns[start]
        failures: list[Failure] = []
        at = start + 1
        for (aggregate, reducer), width in zip(self.groups.folding, self._widths, strict=True):
            known[aggregate.name], failed = reducer.finish(list(main.columns[at : at + width]))
            failures += failed
            at += width
        rest = [
            Arranged.of(aggregate, reducer, count, found)
            for (aggregate, reducer), found in zip(self.groups.collecting, gathered, strict=True)
        ]
        self.tally.rows_merged -= count
        base = Batch((*known.values(), position), main.rows, main.origin)
        every = (*known, *(arranged.name for arranged in rest))
        size = sum(arranged.size for arranged in rest)
        step = max(1, min(ROWS_AT_A_TIME, rows_per_block(base), count * BLOCK // max(1, size)))
        some = [(first, min(first + step, count)) for first in range(0, count, step)]
        for pieces in in_order(some, partial(self._values, base, rest), self._budget.threads):
            for first, last, values in pieces:
                own = [Failure(failure.flags[first:last], failure.reason) for failure in failures]
                own += [failure for _, more in values for failure in more]
                part = base.slice(first, last - first)
                columns = (*part.columns[:-1], *(array for array, _ in values))
                yield self._made(part.with_columns(columns), every, part.columns[-1], own)

    def _values(
        self, base: Batch, rest: Sequence[Arranged], bounds: tuple[int, int]
    ) -> list[tuple[int, int, list[Value]]]:
        """What the aggregates make of some groups; of fewer at a time where their texts are too large together."""
        first, last = bounds
        try:
            size = sum(one.size_of(first, last, LARGEST_TOGETHER) for one in rest)
            if size > LARGEST_TOGETHER and last - first > 1:
                raise pa.ArrowCapacityError("too large together")
            found = [one.finish(first, last) for one in rest]
        except (TooLargeError, pa.ArrowCapacityError, pa.ArrowInvalid) as error:
            if last - first == 1:
                raise self._too_large(self._told(base, first), error) from None
            middle = (first + last) // 2
            before = self._values(base, rest, (first, middle))
            return before + self._values(base, rest, (middle, last))
        return [(first, last, found)]

    def _made(self, known: Batch, names: tuple[str, ...], position: Any, failed: list[Failure]) -> Batch:
        """What the statement makes of the keys and the aggregates."""
        columns, count = [], len(known)
        for _, bound in self.groups.made:
            value = evaluate(bound, known, names)
            failed += value.failures
            array, stored = value.settled(count), stored_in_places(bound)
            columns.append(array if stored is None else cast_exactly(array, stored).array)
        if failed and not self.groups.policy.takes_rows:
            settle_failures(known.rows, None, failed, self.groups.policy, self.tally)
        keys = known.columns[: self._keys]
        out = known.with_columns((*keys, *columns, position))
        self.tally.counts["cells_changed"] += count * len(columns)
        self.tally.counts["nulls_made"] += sum(column.null_count for column in columns)
        out, _ = take_out(out, failed, self.groups.policy, self.tally)
        self.tally.rows_out += len(out)
        return out

    def _told(self, base: Batch, index: int) -> str:
        """`(kiln 007)`: which group it is."""
        columns = self.groups.schema.columns[: self._keys]
        texts = [format_values(base.columns[number].slice(index, 1))[0] for number in range(self._keys)]
        cells = [f"{column.name} {text}" for column, text in zip(columns, texts, strict=True)]
        return f" ({', '.join(cells)})" if cells else ""

    def _too_large(self, which: str, error: Exception | None = None) -> Refusal:
        why = str(error) if isinstance(error, TooLargeError) else "more than 2 GB, and a cell holds no more"
        return extract_does_not_fit(
            "too-large",
            f"the values of one group{which} are too large for one cell: {why}",
            "Group by a further column, or bring distinct values together only. --memory allows more, up to 2 GB.",
            self.groups.span,
        )


def nulls_told(tally: Tally) -> list[str]:
    """How many nulls each aggregate skipped."""
    return [
        f"{text} skipped {count:,} {'null' if count == 1 else 'nulls'}"
        for text, count in sorted(tally.histograms.get("nulls_skipped", Counter()).items())
    ]


LARGEST_TOGETHER = 64 << 20
"""Bytes of values that go into the cells of one batch."""
