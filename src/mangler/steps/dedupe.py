"""`dedupe`: of rows that are alike only one stays."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from mangler.kernels.keys import folded, one_of_each
from mangler.kernels.text_view import Flags
from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.folding import FoldingTables
from mangler.steps.key_columns import columns_after_by, refuse_lists
from mangler.table.batch import Batch
from mangler.table.gathered import Gathered, in_blocks
from mangler.table.room import Room
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="dedupe",
    usage="dedupe [by COLUMNS] [leaving (first|last)] [anycase]",
    meaning="Of rows that are alike in all columns only one stays, where it stood. Null is like null.",
    clauses={
        "by": "Only these columns are compared.",
        "leaving": "Which of them stays: first, as it is if nothing is said, or last.",
        "anycase": "Texts are alike in any letter case.",
    },
    examples=(
        Example("dedupe", "kiln | cone\n007 | 06\n007 | 6\n007 | 06", "kiln | cone\n007 | 06\n007 | 6"),
        Example(
            "dedupe by studio leaving last anycase",
            "studio | week\nClay Works | 18\nQuayside | 18\nclay works | 19",
            "studio | week\nQuayside | 18\nclay works | 19",
        ),
    ),
)


@dataclass(frozen=True)
class Dedupe:
    schema: Schema
    indices: tuple[int, ...]
    last: bool
    anycase: bool

    def gather(self, room: Room) -> Deduping:
        return Deduping(self, room)

    def remarks(self, tally: Tally) -> list[str]:
        if tally.rows_in and tally.rows_in == tally.rows_out:
            return ["changed nothing: no two rows are alike" + " in these columns" * self.chosen]
        return []

    @property
    def chosen(self) -> bool:
        return len(self.indices) < len(self.schema.columns)


class Deduping:
    """The rows wait in their order; their keys, each with the number of its row, fold to one a key."""

    def __init__(self, step: Dedupe, room: Room) -> None:
        self._step = step
        self._rows = Gathered(room.share(2))
        self._keys = FoldingTables([self._fold], len(step.indices), room.share(2))
        self.tally = Tally()

    def absorb(self, batch: Batch) -> None:
        at = self._rows.rows
        self.tally.rows_in += len(batch)
        self._rows.add(batch)
        keys = tuple(folded(batch.columns[index], self._step.anycase) for index in self._step.indices)
        self._keys.add([Batch(keys, np.arange(at, at + len(batch)), batch.origin)])

    def _fold(self, batch: Batch) -> Batch:
        rows = one_of_each(batch.columns, len(batch), self._step.last)
        if len(rows) == len(batch):
            return batch
        stays = np.zeros(len(batch), np.bool_)
        stays[rows] = True
        return batch.filter(stays)

    def release(self) -> Iterator[Batch]:
        stays = np.zeros(self._rows.rows, np.bool_)
        for (keys,) in self._keys.released():
            if keys is not None:
                stays[keys.rows] = True
        self.tally.rows_out = int(np.count_nonzero(stays))
        yield from in_blocks(self._staying(stays), self._rows.origin)

    def _staying(self, stays: Flags) -> Iterator[Batch]:
        at = 0
        for batch in self._rows.drain():
            yield batch.filter(stays[at : at + len(batch)])
            at += len(batch)
        self._rows.close()


def bind(statement: Statement, schema: Schema) -> Dedupe:
    indices = tuple(range(len(schema.columns)))
    if statement.has("by"):
        indices = columns_after_by(statement, schema, DECLARATION.usage, "alike")
    place = statement.place_of("by") if statement.has("by") else statement.place
    refuse_lists(schema, indices, place, " Or leave it out: by … except {}.")
    last = statement.values.get("leaving") == "last"
    return Dedupe(schema, indices, last, statement.has("anycase"))
