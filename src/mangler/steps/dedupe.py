"""`dedupe`: of rows that are alike only one stays."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from mangler.kernels.keys import folded, hashes, keys_of
from mangler.kernels.text_view import Flags
from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.key_columns import columns_after_by, refuse_lists
from mangler.table.batch import Batch
from mangler.table.gathered import Gathered, deal, in_blocks, taken, together
from mangler.table.room import Room, SpoolFile
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
PARTITIONS = 64


@dataclass(frozen=True)
class Dedupe:
    schema: Schema
    indices: tuple[int, ...]
    last: bool
    anycase: bool

    def gather(self, room: Room) -> Deduping:
        return Deduping(self, room, Gathered(room))

    def remarks(self, tally: Tally) -> list[str]:
        if tally.rows_in and tally.rows_in == tally.rows_out:
            return ["changed nothing: no two rows are alike" + " in these columns" * self.chosen]
        return []

    @property
    def chosen(self) -> bool:
        return len(self.indices) < len(self.schema.columns)


@dataclass
class Deduping:
    """Rows beyond memory stay in their file; their keys are dealt out by hash, and looked at a partition at a time."""

    step: Dedupe
    room: Room
    rows: Gathered
    tally: Tally = field(default_factory=Tally)

    def absorb(self, batch: Batch) -> None:
        self.tally.rows_in += len(batch)
        self.rows.add(batch)

    def release(self) -> Iterator[Batch]:
        if not self.rows.rows:
            return
        if self.rows.size <= self.room.held:
            whole = self.rows.whole()
            chosen = _chosen(self._columns(whole), len(whole), self.step.last)
            self.tally.rows_out = len(chosen)
            yield from taken(whole, chosen)
            return
        stays = self._stays()
        self.tally.rows_out = int(np.count_nonzero(stays))
        yield from in_blocks(self._staying(stays), self.rows.origin)

    def _staying(self, stays: Flags) -> Iterator[Batch]:
        at = 0
        for batch in self.rows:
            yield batch.filter(stays[at : at + len(batch)])
            at += len(batch)

    def _stays(self) -> Flags:
        """Which of all rows stay."""
        stays = np.zeros(self.rows.rows, np.bool_)
        file, at = self.room.file(), 0
        keys = self._partitions(file)
        for batch in self.rows:
            numbered = Batch(
                tuple(self._columns(batch)), np.arange(at, at + len(batch), dtype=np.int64), batch.origin
            )
            deal(numbered, hashes(numbered.columns, len(batch)) % PARTITIONS, keys)
            at += len(batch)
        for partition in keys:
            self._mark(partition, stays, level=1)
        file.close()
        return stays

    def _mark(self, partition: Gathered, stays: Flags, level: int) -> None:
        """Notes the rows of a partition that stay; those seen so far are kept without repetitions."""
        known: Batch | None = None
        rest = iter(partition)
        for batch in rest:
            known = batch if known is None else together([known, batch], partition.origin)
            chosen = _chosen(known.columns, len(known), self.step.last)
            if len(chosen) < len(known):
                known = _only(known, chosen)
            if sum(column.nbytes for column in known.columns) > self.room.held:
                self._deal_again(known, rest, stays, level)
                partition.close()
                return
        if known is not None:
            stays[known.rows] = True
        partition.close()

    def _deal_again(self, known: Batch, rest: Iterator[Batch], stays: Flags, level: int) -> None:
        """So many different keys that they go to further partitions, by another hash."""
        file = self.room.file()
        finer = self._partitions(file)
        for batch in (known, *rest):
            deal(batch, hashes(batch.columns, len(batch), level) % PARTITIONS, finer)
        for partition in finer:
            self._mark(partition, stays, level + 1)
        file.close()

    def _partitions(self, file: SpoolFile) -> list[Gathered]:
        return [Gathered(self.room, file) for _ in range(PARTITIONS)]

    def _columns(self, batch: Batch) -> list[Any]:
        return [folded(batch.columns[index], self.step.anycase) for index in self.step.indices]


def _only(batch: Batch, chosen: Any) -> Batch:
    flags = np.zeros(len(batch), np.bool_)
    flags[chosen] = True
    return batch.filter(flags)


def _chosen(columns: Any, count: int, last: bool) -> Any:
    """The rows that stay, in their order."""
    keys = keys_of(columns, count)
    if not last:
        return keys.first
    final = np.empty(keys.count, np.int64)
    final[keys.codes] = np.arange(count)  # of equal places the last value stays
    final.sort()
    return final


def bind(statement: Statement, schema: Schema) -> Dedupe:
    indices = tuple(range(len(schema.columns)))
    if statement.has("by"):
        indices = columns_after_by(statement, schema, DECLARATION.usage, "alike")
    place = statement.place_of("by") if statement.has("by") else statement.place
    refuse_lists(schema, indices, place, " Or leave it out: by … except {}.")
    last = statement.values.get("leaving") == "last"
    return Dedupe(schema, indices, last, statement.has("anycase"))
