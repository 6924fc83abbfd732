"""`sort`: rows in the order of columns."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.kernels.order import Order, SortKey, classes, row_numbers, sort_order
from mangler.language.declaration import Declaration, Example
from mangler.language.mistake import Mistake, wrong_recipe
from mangler.language.statement import Statement
from mangler.steps.key_columns import said_twice
from mangler.table.batch import Batch
from mangler.table.dealt import Dealt, Part
from mangler.table.gathered import Gathered, in_blocks, together
from mangler.table.in_order import put_in_order
from mangler.table.room import Room
from mangler.table.schema import Schema, ValueType
from mangler.table.select import named_columns
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="sort",
    usage="sort by {COLUMN [descending]}, … [anycase] [nulls first|nulls last]",
    meaning="Puts the rows in the order of one or more columns, ascending where nothing else is said; descending"
    " belongs to its column. Rows that are equal in them stay as they stood. Texts go by code point, so that"
    " numbers that are text are no numbers: convert them first.",
    clauses={
        "descending": "The column before it in descending order.",
        "anycase": "Letter case does not count.",
        "nulls first": "Nulls stand before all values, in descending order too.",
        "nulls last": "Nulls stand after all values, in descending order too; so it is if nothing is said.",
    },
    examples=(
        Example(
            "sort by kiln, made descending",
            "kiln | made integer\n012 | 4\n007 | 3\n007 | 12\n007 | null",
            "kiln | made integer\n007 | 12\n007 | 3\n007 | null\n012 | 4",
        ),
        Example(
            "sort by glaze anycase nulls first",
            "glaze | n\nshino | 1\nAsh | 2\nnull | 3\nash | 4",
            "glaze | n\nnull | 3\nAsh | 2\nash | 4\nshino | 1",
        ),
    ),
)
SAMPLE = 64
"""Rows of each batch whose keys say where the borders of stretches are."""
MOST_BORDERS = 64


@dataclass(frozen=True)
class Sort:
    schema: Schema
    indices: tuple[int, ...]
    keys: tuple[SortKey, ...]
    makes_table = True

    def gather(self, room: Room) -> Sorting:
        return Sorting(self, room, Gathered(room))

    def remarks(self, tally: Tally) -> list[str]:  # noqa: ARG002
        return []


@dataclass
class Sorting:
    """Rows in memory are sorted at once.

    Those beyond it are dealt out to stretches between values of a sample, and one stretch is sorted after the other.
    Rows equal to a border make a stretch of their own, which needs no sorting, however large it is.
    """

    step: Sort
    room: Room
    rows: Gathered
    samples: list[Batch] = field(default_factory=list)
    tally: Tally = field(default_factory=Tally)

    def absorb(self, batch: Batch) -> None:
        self.tally.rows_in += len(batch)
        self.tally.rows_out += len(batch)
        self.rows.add(batch)
        self.samples.append(self._sample(batch))

    def release(self) -> Iterator[Batch]:
        return in_blocks(self._sorted(self.rows, self.samples), self.rows.origin)

    def _sorted(self, rows: Gathered | Part, samples: Sequence[Batch]) -> Iterator[Batch]:
        if rows.size > self.room.held:
            yield from self._by_stretches(rows, samples)
            return
        keys = [self._columns(batch) for batch in rows]
        if keys:
            yield from put_in_order(rows, self._order(keys), self.room)

    def _order(self, keys: list[list[Any]]) -> Order:
        """Of the keys of batches, which are needed no longer then."""
        columns = [pa.concat_arrays(pieces) for pieces in zip(*keys, strict=True)]
        keys.clear()
        return sort_order(columns, self.step.keys)

    def _by_stretches(self, rows: Gathered | Part, samples: Sequence[Batch]) -> Iterator[Batch]:
        borders = self._borders(rows, samples)
        stretches = 2 * len(borders[0]) + 1
        dealt = Dealt(self.room, stretches, hold=self.room.held)
        for batch in rows.drain():
            dealt.add(batch, classes(self._columns(batch), borders, self.step.keys))
        for number in range(stretches):
            stretch = dealt.part(number)
            if number % 2:
                yield from stretch
            else:
                yield from self._sorted(stretch, [self._sample(batch) for batch in stretch])
        dealt.close()

    def _borders(self, rows: Gathered | Part, samples: Sequence[Batch]) -> list[Any]:
        """Rows of the sample, all different, with about as many rows between each two as are sorted at once."""
        sample = together([batch for batch in samples if len(batch)], rows.origin)
        order = sort_order(sample.columns, self.step.keys)
        wanted = min(MOST_BORDERS, max(1, -(-rows.size * 2 // max(1, self.room.held))))
        chosen = order[np.linspace(0, len(order) - 1, wanted + 2).astype(np.intp)[1:-1]]
        arranged = [column.take(pa.array(chosen)) for column in sample.columns]
        numbers = np.stack(row_numbers(arranged, self.step.keys), axis=1)
        differs = np.append(True, (numbers[1:] != numbers[:-1]).any(axis=1))
        return [column.filter(pa.array(differs)) for column in arranged]

    def _sample(self, batch: Batch) -> Batch:
        chosen = np.unique(np.linspace(0, max(0, len(batch) - 1), min(SAMPLE, len(batch))).astype(np.intp))
        columns = tuple(column.take(pa.array(chosen)) for column in self._columns(batch))
        return Batch(columns, batch.rows[chosen], self.rows.origin)  # its own would keep its whole block

    def _columns(self, batch: Batch) -> list[Any]:
        return [batch.columns[index] for index in self.step.indices]


def bind(statement: Statement, schema: Schema) -> Sort:
    items = statement.values["column"]
    indices = named_columns([item["column"] for item in items], schema)
    for item, index in zip(items, indices, strict=True):
        name = schema.columns[index].name
        if schema.columns[index].type is ValueType.LIST:
            raise wrong_recipe(
                f'"{name}" is a list, which has no order',
                f'Sort by a text or a number of it: joined({name}, ";"), size({name}).',
                item["column"].place,
            )
    anycase, nulls_first = statement.has("anycase"), statement.has("nulls first")
    keys = tuple(SortKey("descending" in item, anycase, nulls_first) for item in items)
    return Sort(schema, tuple(indices), keys)


def check(statement: Statement) -> list[Mistake]:
    return said_twice([item["column"] for item in statement.values["column"]])
