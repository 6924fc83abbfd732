"""`dedupe`: of rows that are alike only one stays."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from mangler.kernels.keys.keys import folded, one_of_each
from mangler.kernels.text.text_view import Flags
from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.shared.key_columns import columns_after_by, refuse_lists
from mangler.table.batch import Batch
from mangler.table.contract import Gathering, GatheringStep
from mangler.table.memory_budget import MemoryBudget
from mangler.table.partitioned_fold import PartitionedFold
from mangler.table.positions import indexes_of, positions_of
from mangler.table.schema import Schema
from mangler.table.spillable_rows import SpillableRows, in_blocks
from mangler.table.state import StateReader, StateWriter
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
class Dedupe(GatheringStep):
    schema: Schema
    indices: tuple[int, ...]
    last: bool
    anycase: bool

    def gather(self, budget: MemoryBudget) -> Deduping:
        return Deduping(self, budget)

    def remarks(self, tally: Tally) -> list[str]:
        if tally.rows_in and tally.rows_in == tally.rows_out:
            return ["changed nothing: no two rows are alike" + " in these columns" * self.chosen]
        return []

    @property
    def chosen(self) -> bool:
        return len(self.indices) < len(self.schema.columns)


class Deduping(Gathering):
    """The rows wait in their order; of their keys, each with the position of its row, one per key is kept."""

    def __init__(self, step: Dedupe, budget: MemoryBudget) -> None:
        self._step = step
        self._rows = SpillableRows(budget.share(2))
        self._keys = PartitionedFold([self._fold], len(step.indices), budget.share(2))
        self.tally = Tally()

    def absorb(self, batch: Batch, partition: int) -> None:
        self.tally.rows_in += len(batch)
        self._rows.add(batch, partition)
        keys = tuple(folded(batch.columns[index], self._step.anycase) for index in self._step.indices)
        self._keys.add([Batch(keys, positions_of(partition, len(batch)), batch.origin)])

    def merge(self, later: Deduping) -> None:
        self.tally.add(later.tally)
        self._rows.extend(later._rows.consume(), later._rows.runs)
        self._keys.merge(later._keys)

    def dump(self, state: StateWriter) -> None:
        state.record(self.tally.to_record())
        self._rows.dump(state)
        self._keys.dump(state)

    def load(self, state: StateReader) -> None:
        self.tally.add(Tally.from_record(state.record()))
        self._rows.load(state)
        self._keys.load(state)

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
                stays[indexes_of(keys.rows, self._rows.runs)] = True
        self.tally.rows_out = int(np.count_nonzero(stays))
        yield from in_blocks(self._staying(stays), self._rows.origin)

    def _staying(self, stays: Flags) -> Iterator[Batch]:
        at = 0
        for batch in self._rows.consume():
            yield batch.filter(stays[at : at + len(batch)])
            at += len(batch)
        self._rows.close()


def bind(statement: Statement, schema: Schema) -> Dedupe:
    indices = tuple(range(len(schema.columns)))
    if statement.has("by"):
        indices = columns_after_by(statement, schema, DECLARATION.usage, "alike")
    span = statement.span_of("by") if statement.has("by") else statement.span
    refuse_lists(schema, indices, span, " Or leave it out: by … except {}.")
    last = statement.values.get("leaving") == "last"
    return Dedupe(schema, indices, last, statement.has("anycase"))
