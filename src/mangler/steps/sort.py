"""`sort`: rows in the order of columns."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
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
from mangler.table.gathered import Gathered, in_blocks, size_of
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
SAMPLE = 1024
"""Rows of each batch whose keys say where the borders of stretches are."""
MOST_BORDERS = 64


@dataclass(frozen=True)
class Sort:
    schema: Schema
    indices: tuple[int, ...]
    keys: tuple[SortKey, ...]
    makes_table = True

    def gather(self, room: Room) -> Sorting:
        return Sorting(self, room)

    def keys_of(self, batch: Batch) -> list[Any]:
        return [batch.columns[index] for index in self.indices]

    def remarks(self, tally: Tally) -> list[str]:  # noqa: ARG002
        return []


class Sorting:
    """Rows in memory are sorted at once.

    When there is no more room they are dealt out to stretches between values of a sample, those that come later too,
    and one stretch is sorted after the other. Rows equal to a border make a stretch of their own, which needs no
    sorting, however large it is.
    """

    def __init__(self, step: Sort, room: Room) -> None:
        self._step, self._room = step, room
        self._rows = Gathered(room)
        self._stretches: _Stretches | None = None
        self.tally = Tally()

    def absorb(self, batch: Batch) -> None:
        self.tally.rows_in += len(batch)
        self.tally.rows_out += len(batch)
        if self._stretches is None and self._rows.size + size_of(batch) > self._room.held and self._rows.rows:
            self._stretches = self._dealt(self._rows)
        if self._stretches is None:
            self._rows.add(batch)
        else:
            self._stretches.add(batch)

    def release(self) -> Iterator[Batch]:
        if self._stretches is None:
            return in_blocks(self._sorted(self._rows), self._rows.origin)
        return in_blocks(self._by_stretches(self._stretches), self._stretches.dealt.origin)

    def _sorted(self, rows: Gathered | Part) -> Iterator[Batch]:
        if rows.size > self._room.held:
            yield from self._by_stretches(self._dealt(rows))
            return
        keys = [self._step.keys_of(batch) for batch in rows]
        if keys:
            yield from put_in_order(rows, self._order(keys), self._room)

    def _order(self, keys: list[list[Any]]) -> Order:
        """Of the keys of batches, which are needed no longer then."""
        columns = [pa.concat_arrays(pieces) for pieces in zip(*keys, strict=True)]
        keys.clear()
        return sort_order(columns, self._step.keys)

    def _dealt(self, rows: Gathered | Part) -> _Stretches:
        """These rows in stretches; they are held here no longer."""
        stretches = _Stretches(self._step, self._borders(rows), self._room)
        for batch in rows.drain():
            stretches.add(batch)
        return stretches

    def _by_stretches(self, stretches: _Stretches) -> Iterator[Batch]:
        stretches.dealt.spill()
        for number in range(stretches.count):
            stretch = stretches.dealt.part(number)
            if number % 2:
                yield from stretch
            else:
                yield from self._sorted(stretch)
        stretches.dealt.close()

    def _borders(self, rows: Gathered | Part) -> list[Any]:
        """The keys of some rows, all different, with about as many rows between each two."""
        samples = [[column.take(_spread(batch)) for column in self._step.keys_of(batch)] for batch in rows]
        columns = [pa.concat_arrays(pieces) for pieces in zip(*samples, strict=True)]
        order = sort_order(columns, self._step.keys)
        chosen = order[np.linspace(0, len(order) - 1, MOST_BORDERS + 2).astype(np.intp)[1:-1]]
        arranged = [column.take(pa.array(chosen)) for column in columns]
        numbers = np.stack(row_numbers(arranged, self._step.keys), axis=1)
        differs = np.append(True, (numbers[1:] != numbers[:-1]).any(axis=1))
        return [column.filter(pa.array(differs)) for column in arranged]


def _spread(batch: Batch) -> Any:
    """Some rows of a batch, from all over it."""
    return pa.array(np.unique(np.linspace(0, len(batch) - 1, min(SAMPLE, len(batch))).astype(np.intp)))


class _Stretches:
    """Rows dealt out by their place between borders: to an odd stretch where they are equal to one."""

    def __init__(self, step: Sort, borders: list[Any], room: Room) -> None:
        self._step, self._borders = step, borders
        self.count = 2 * len(borders[0]) + 1
        self.dealt = Dealt(room, self.count, hold=room.held)

    def add(self, batch: Batch) -> None:
        if len(batch):
            self.dealt.add(batch, classes(self._step.keys_of(batch), self._borders, self._step.keys))


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
