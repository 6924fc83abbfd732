"""Rows that fold: of those that are alike in their keys, fewer say the same. In memory as long as there is room.

What has no room goes to files, dealt out by the keys' hashes, so that each part of it folds by itself.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import TypeAlias

import pyarrow as pa

from mangler.kernels.keys import hashes
from mangler.kernels.order import SortKey
from mangler.kernels.text_view import TooLargeError
from mangler.steps.sort import Sort
from mangler.table.batch import Batch
from mangler.table.dealt import Dealt
from mangler.table.gathered import GatheredOrigin, emptied, in_blocks, size_of
from mangler.table.room import Room
from mangler.table.schema import Column, Schema, ValueType

Fold: TypeAlias = Callable[[Batch], Batch]
Finish: TypeAlias = Callable[[Sequence[Batch | None]], Iterator[Batch]]
"""Makes what comes out of the tables' rows of some keys."""
CHUNK = 1 << 18
"""Rows that are folded at a time, at least."""
GROWTH = 64
"""Where folding brings little, so many times the rows are awaited; it is done before rows go to files."""
PARTITIONS = 64
DEEPEST = 8
"""So many times rows are dealt out anew; what is still too large by then belongs to one key."""


class FoldingTable:
    """Rows of one kind, folded whenever enough have come; less often the less that brings. Without a fold all stay."""

    def __init__(self, fold: Fold | None, origin: GatheredOrigin) -> None:
        self._fold, self._origin = fold, origin
        self._held: list[Batch] = []
        self.rows = 0
        self._target = CHUNK
        self._is_folded = True
        self.size = 0

    def add(self, batch: Batch) -> None:
        if not len(batch):
            return
        # Not with its own origin: that would keep the bytes of the block it was read from.
        self._held.append(Batch(batch.columns, batch.rows, self._origin))
        self.rows += len(batch)
        self.size += size_of(batch)
        self._is_folded = self._fold is None
        if self.rows >= self._target:
            self.fold()

    def fold(self) -> None:
        if self._is_folded or self._fold is None:
            return
        before = self.rows
        folded = self._fold(self._together())
        self._held, self.rows, self.size = [folded], len(folded), size_of(folded)
        self._is_folded = True
        shrank = self.rows * 2 <= before
        self._target = self.rows + max(CHUNK, self.rows) if shrank else before * GROWTH

    def whole(self) -> Batch | None:
        """All rows folded into one batch; None where there are none."""
        self.fold()
        if not self._held:
            return None
        self._held = [self._together()]
        return self._held[0]

    def _together(self) -> Batch:
        try:
            return emptied(self._held, self._origin)
        except (pa.ArrowInvalid, pa.ArrowCapacityError) as error:
            raise TooLargeError(str(error)) from None

    def empty(self) -> list[Batch]:
        """The rows, which are held here no longer."""
        held, self._held, self.rows, self.size = self._held, [], 0, 0
        self._is_folded = True
        return held


class FoldingTables:
    """Several tables of rows with the same keys, which stand first in each of them, dealt out together.

    Where the first table has folded to a single row, or there are no keys, there is nothing to deal out.
    """

    def __init__(self, folds: Sequence[Fold | None], keys: int, room: Room, level: int = 0) -> None:
        self._folds, self._keys, self._level = folds, keys, level
        self._whole_room = room
        self._room = room.share(len(folds))
        self.origin = GatheredOrigin()
        self._tables = [FoldingTable(fold, self.origin) for fold in folds]
        self._dealt: list[Dealt] = []
        self._limit = room.held
        """Bytes of rows in memory beyond which something is done about them."""

    @property
    def is_dealt(self) -> bool:
        """Whether rows had to go to files."""
        return bool(self._dealt)

    def add(self, batches: Sequence[Batch]) -> None:
        """Rows of each table, which came together."""
        for table, batch in zip(self._tables, batches, strict=True):
            self.origin.file = self.origin.file or batch.origin.file
            table.add(batch)
        if self._size() <= self._limit:
            return
        for table in self._tables:
            table.fold()
        if self._size() <= self._limit // 4:
            return
        if self._keys and self._level < DEEPEST and self._tables[0].rows > 1:
            self._deal()
            self._limit = self._whole_room.held // 2
        else:  # they belong to one key, and must be in memory
            self._limit = 2 * self._size()

    def _size(self) -> int:
        return sum(table.size for table in self._tables)

    def _deal(self) -> None:
        if not self._dealt:
            room = self._room
            self._dealt = [Dealt(room, PARTITIONS, hold=room.held // 2) for _ in self._tables]
        for table, dealt in zip(self._tables, self._dealt, strict=True):
            for batch in table.empty():
                numbers = hashes(batch.columns[: self._keys], len(batch), self._level) % PARTITIONS
                dealt.add(batch, numbers)

    def released(self) -> Iterator[list[Batch | None]]:
        """The tables' rows, all of the same keys together, in as many portions as they need."""
        if not self._dealt:
            yield [table.whole() for table in self._tables]
            return
        self._deal()
        for dealt in self._dealt:
            dealt.spill()
        for number in range(PARTITIONS):
            finer = FoldingTables(self._folds, self._keys, self._whole_room.share(2), self._level + 1)
            finer.origin.file = self.origin.file
            for place, dealt in enumerate(self._dealt):
                for batch in dealt.part(number):
                    finer.add_to(place, batch)
            yield from finer.released()
        for dealt in self._dealt:
            dealt.close()

    def add_to(self, place: int, batch: Batch) -> None:
        """Rows of one of the tables."""
        none = [Batch((), batch.rows[:0], batch.origin)] * len(self._tables)
        none[place] = batch
        self.add(none)


def in_their_order(
    tables: FoldingTables, finish: Finish, columns: Sequence[Column], room: Room
) -> Iterator[Batch]:
    """What is made of all rows, in the order of its last column, which goes: that of the first rows of each key.

    `columns` are those that come out.
    """
    if not tables.is_dealt:
        for portion in tables.released():
            for batch in finish(portion):
                yield batch.with_columns(batch.columns[:-1])
        return
    place = Column("", ValueType.INTEGER)
    sorting = Sort(Schema((*columns, place)), (len(columns),), (SortKey(),)).gather(room)
    for portion in tables.released():
        for batch in in_blocks(finish(portion), tables.origin):
            sorting.absorb(batch)
    for batch in sorting.release():
        yield batch.with_columns(batch.columns[:-1])
