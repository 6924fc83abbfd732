"""Rows that a step has gathered: in memory while there is room, then in a file."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.table.batch import Batch
from mangler.table.room import Room, SpoolFile

ROWS = "rows"
BLOCK = 4 << 20
"""Bytes of the batches that come out."""


class GatheredOrigin:
    """The origin of rows that were gathered from all over an extract."""

    def __init__(self, file: str = "") -> None:
        self.file = file

    def as_read(self, row: int) -> bytes:  # noqa: ARG002
        return b""

    def line_of(self, row: int) -> int:  # noqa: ARG002
        """Not known any more."""
        return 0


def packed(batch: Batch) -> pa.RecordBatch:
    """The batch as Arrow writes it: its columns by number, and its row numbers."""
    names = [*map(str, range(len(batch.columns))), ROWS]
    return pa.RecordBatch.from_arrays([*batch.columns, pa.array(batch.rows)], names=names)


def unpacked(record: pa.RecordBatch, origin: GatheredOrigin) -> Batch:
    columns = record.columns
    return Batch(tuple(columns[:-1]), np.asarray(columns[-1]), origin)


def together(batches: Sequence[Batch], origin: GatheredOrigin) -> Batch:
    """All these rows, of at least one batch, in one."""
    if len(batches) == 1:
        return Batch(batches[0].columns, batches[0].rows, origin)
    width = len(batches[0].columns)
    columns = tuple(pa.concat_arrays([batch.columns[i] for batch in batches]) for i in range(width))
    return Batch(columns, np.concatenate([batch.rows for batch in batches]), origin)


def emptied(batches: list[Batch], origin: GatheredOrigin) -> Batch:
    """All these rows, of at least one batch, in one; the list is empty then.

    Column by column, so that besides the rows only one column is in memory a second time.
    """
    rows = np.concatenate([batch.rows for batch in batches])
    columns = [list(batch.columns) for batch in batches]
    batches.clear()
    whole = []
    for place in range(len(columns[0])):
        whole.append(
            pa.concat_arrays([one[place] for one in columns]) if len(columns) > 1 else columns[0][place]
        )
        for one in columns:
            one[place] = None
    return Batch(tuple(whole), rows, origin)


def size_of(batch: Batch) -> int:
    return sum(int(column.nbytes) for column in batch.columns) + int(batch.rows.nbytes)


def taken(batch: Batch, order: Any) -> Iterator[Batch]:
    """The rows in this order, in batches of a block."""
    step = rows_a_block(batch)
    for start in range(0, len(order), step):
        chosen = order[start : start + step]
        indices = pa.array(chosen)
        columns = tuple(column.take(indices) for column in batch.columns)
        yield Batch(columns, batch.rows[chosen], batch.origin)


def in_blocks(batches: Iterable[Batch], origin: GatheredOrigin) -> Iterator[Batch]:
    """The same rows, small batches joined until they make a block."""
    held: list[Batch] = []
    size = 0
    for batch in batches:
        held.append(batch)
        size += size_of(batch)
        if size >= BLOCK:
            yield together(held, origin)
            held, size = [], 0
    if held:
        yield together(held, origin)


def rows_a_block(batch: Batch) -> int:
    return max(1024, int(len(batch) * BLOCK / max(1, size_of(batch))))


class Gathered:
    """Rows in their order. Those beyond what the room holds go to a file."""

    def __init__(self, room: Room) -> None:
        self._room = room
        self._hold = room.held
        self._file: SpoolFile | None = None
        self._places: list[int] = []
        self._held: list[Batch] = []
        self._held_size = 0
        self.size = 0
        self.rows = 0
        self.origin = GatheredOrigin()

    def add(self, batch: Batch) -> None:
        if not len(batch):
            return
        self.origin.file = batch.origin.file
        size = size_of(batch)
        # Not with its own origin: that would keep the bytes of the block it was read from.
        self._held.append(Batch(batch.columns, batch.rows, self.origin))
        self.rows += len(batch)
        self.size += size
        self._held_size += size
        if self._held_size > (self._room.piece if self._places else self._hold):
            self._spill()

    def _spill(self) -> None:
        """What is held goes to the file, small batches together."""
        self._file = self._file or self._room.file()
        pieces: list[Batch] = []
        for batch in self._held:
            pieces.append(batch)
            if sum(map(size_of, pieces)) > self._room.piece:
                self._places.append(self._file.write(packed(together(pieces, self.origin))))
                pieces = []
        if pieces:
            self._places.append(self._file.write(packed(together(pieces, self.origin))))
        self._held, self._held_size = [], 0

    def __iter__(self) -> Iterator[Batch]:
        for place in self._places:
            yield self._read(place)
        yield from self._held

    def drain(self) -> Iterator[Batch]:
        """The batches, each of which is held no longer once it is given out."""
        for place in self._places:
            yield self._read(place)
        self._held.reverse()
        while self._held:
            yield self._held.pop()

    def backwards(self) -> Iterator[Batch]:
        """The batches from the last to the first; rows within a batch stay in order."""
        yield from self._held[::-1]
        for place in reversed(self._places):
            yield self._read(place)

    def _read(self, place: int) -> Batch:
        assert self._file is not None
        return unpacked(self._file.read(place), self.origin)

    def close(self) -> None:
        """Gives memory and file back."""
        self._held = []
        if self._file is not None:
            self._file.close()
