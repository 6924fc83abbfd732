"""Rows of groups as long as they fit into memory: each with the number of its group in the place of the keys.

So keys are compared once, as the rows come, and each is held once. Beyond the memory the rows get their keys back.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from mangler.expressions.aggregates.aggregate import Collecting, Columns, Folding
from mangler.kernels.arrow import from_numpy
from mangler.kernels.keys.keys import Codes
from mangler.kernels.keys.seen_keys import NumberedKeys
from mangler.kernels.taking import take
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.packing import MixedOrigin
from mangler.table.partitioned_fold import FoldingTable
from mangler.table.spillable_rows import concat_batches, size_of

AT_ONCE = 1 << 16
"""Rows that get their keys back together."""


@dataclass(frozen=True)
class Gathered:
    """What is there of a collecting aggregate: for each row the number of its group, and its cells."""

    numbers: Codes
    columns: Columns
    is_folded: bool = False
    """Whether none of the rows could be folded any more."""


class NumberedRows:
    """The groups in the order in which they came first, and rows of each aggregate. Needs the compiled kernel."""

    def __init__(
        self, folding: Sequence[Folding], collecting: Sequence[Collecting], keys: int, origin: MixedOrigin
    ) -> None:
        self._folding, self._collecting, self._keys, self._origin = folding, collecting, keys, origin
        self._seen = NumberedKeys()
        self._heads: list[Batch] = []
        """Of each group the keys, and what else comes from its first row."""
        self._widths: Sequence[int] = ()
        self._states = FoldingTable(self._fold_states, origin)
        self._rows = [FoldingTable(self._fold_of(one), origin) for one in collecting]
        self._met = [NumberedKeys() if one.tells_apart is not None else None for one in collecting]
        """The rows of an aggregate that has each value once."""
        self._heads_size = 0

    @property
    def count(self) -> int:
        """How many groups there are."""
        return self._seen.count

    @property
    def size(self) -> int:
        """Bytes in memory."""
        seen = sum(one.size for one in (self._seen, *self._met) if one is not None)
        return seen + self._heads_size + self._states.size + sum(table.size for table in self._rows)

    def add(
        self,
        batch: Batch,
        keys: Columns,
        others: Columns,
        states: Columns,
        widths: Sequence[int],
        collected: Sequence[tuple[Codes, Columns]],
    ) -> None:
        """Adds rows. `others` are the columns of which each group's first row counts; `states` and `collected` are what
        the aggregates take from the rows, the states of one in so many columns as `widths` says."""
        numbers = self._numbers_of(batch, keys, others)
        if states:
            self._widths = widths
            self._states.add(Batch((from_numpy(numbers), *states), batch.rows, self._origin))
        for table, met, reducer, (rows, columns) in zip(
            self._rows, self._met, self._collecting, collected, strict=True
        ):
            own = numbers[rows]
            if met is not None and reducer.tells_apart is not None:
                _, new = met.numbers([from_numpy(own), *reducer.tells_apart(columns)], len(own))
                if len(new) < len(own):
                    own, rows, columns = own[new], rows[new], [take(column, new) for column in columns]
            table.add(Batch((from_numpy(own.astype(np.int32)), *columns), batch.rows[rows], self._origin))

    def _numbers_of(self, batch: Batch, keys: Columns, others: Columns) -> Codes:
        numbers, heads = self._seen.numbers(keys, len(batch))
        if len(heads):
            columns = tuple(take(column, heads) for column in (*keys, *others))
            one = Batch(columns, batch.rows[heads], self._origin)
            self._heads.append(one)
            self._heads_size += size_of(one)
        return numbers

    def _fold_states(self, batch: Batch) -> Batch:
        """A row for each group."""
        numbers, at, columns = np.asarray(batch.columns[0]), 1, []
        for reducer, width in zip(self._folding, self._widths, strict=True):
            columns += reducer.fold(numbers, self.count, list(batch.columns[at : at + width]))
            at += width
        every = np.arange(self.count)
        return Batch((from_numpy(every), *columns), every, self._origin)

    def _fold_of(self, reducer: Collecting) -> _Fold | None:
        return _Fold(reducer) if reducer.folds and reducer.tells_apart is None else None

    def fold(self) -> None:
        """Leaves no more rows than are needed."""
        for table in (self._states, *self._rows):
            table.fold()

    def groups(self) -> Batch:
        """A row for each group: its keys, what came from its first row, and its states."""
        self._heads = [concat_batches(self._heads, self._origin)]
        states = self._states.whole()
        columns = () if states is None else states.columns[1:]
        return self._heads[0].with_columns((*self._heads[0].columns, *columns))

    def gathered(self) -> list[Gathered | None]:
        """The rows of each collecting aggregate, which are not held any longer; None where there are none."""
        found: list[Gathered | None] = []
        for table, met in zip(self._rows, self._met, strict=True):
            whole = table.whole(folded=False)
            table.empty()
            found.append(
                None
                if whole is None
                else Gathered(
                    np.asarray(whole.columns[0]).astype(np.int64), list(whole.columns[1:]), met is not None
                )
            )
        return found

    def with_keys(self) -> Iterator[tuple[int, Batch]]:
        """All rows with their keys in the place of the numbers, which are not held any longer: first the groups, then
        the rows of each collecting aggregate by its number, from 1."""
        groups = self.groups()
        self._states.empty()
        self._seen, self._met = NumberedKeys(), []  # no row is asked for any more
        yield 0, groups
        keys = groups.columns[: self._keys]
        for number, table in enumerate(self._rows, 1):
            waiting = table.empty()[::-1]
            while waiting:
                held = waiting.pop()
                for start in range(0, len(held), AT_ONCE):
                    some = held.slice(start, min(AT_ONCE, len(held) - start))
                    numbers = np.asarray(some.columns[0]).astype(np.int64)
                    yield (
                        number,
                        some.with_columns((*(take(key, numbers) for key in keys), *some.columns[1:])),
                    )


@dataclass(frozen=True)
class _Fold:
    """How the rows of a collecting aggregate fold, whose first column is the number of the group."""

    reducer: Collecting

    def __call__(self, batch: Batch) -> Batch:
        rows, columns = self.reducer.fold(
            np.asarray(batch.columns[0]).astype(np.int64), list(batch.columns[1:])
        )
        return Batch((take(batch.columns[0], rows), *columns), batch.rows[rows], batch.origin)
