"""`fill … up`: nulls take the value below them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np
import pyarrow as pa

from mangler.steps.fill import FillDown
from mangler.table.batch import Batch
from mangler.table.gathered import Gathered
from mangler.table.room import Room
from mangler.table.schema import Schema
from mangler.table.tally import Tally


@dataclass(frozen=True)
class FillUp:
    """Filling down, from the last row to the first."""

    down: FillDown

    @property
    def schema(self) -> Schema:
        return self.down.schema

    def gather(self, room: Room) -> FillingUp:
        return FillingUp(self.down, room, Gathered(room))

    def remarks(self, tally: Tally) -> list[str]:
        return self.down.remarks(tally)


@dataclass
class FillingUp:
    down: FillDown
    room: Room
    rows: Gathered
    tally: Tally = field(default_factory=Tally)

    def absorb(self, batch: Batch) -> None:
        self.rows.add(batch)

    def release(self) -> Iterator[Batch]:
        carried = self.down.start()
        mirrored = Gathered(self.room)
        for batch in self.rows.backwards():
            filled, tally = self.down.carry_on(_mirror(batch), carried)
            self.tally.add(tally)
            mirrored.add(filled)
        self.rows.close()
        for batch in mirrored.backwards():
            yield _mirror(batch)
        mirrored.close()


def _mirror(batch: Batch) -> Batch:
    """The rows from the last to the first."""
    order = np.arange(len(batch) - 1, -1, -1)
    indices = pa.array(order)
    return Batch(tuple(column.take(indices) for column in batch.columns), batch.rows[order], batch.origin)
