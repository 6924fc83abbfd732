"""`sort`: rows in the order of columns."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import field

import numpy as np

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.order import SortKey
from mangler.kernels.text.plain_numbers import NO_NUMBER, whole_places
from mangler.language.declaration import Declaration, Example
from mangler.language.mistake import Mistake
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.key_columns import said_twice, sort_keys
from mangler.table.batch import Batch
from mangler.table.contract import Gathering, GatheringStep
from mangler.table.external_sort import ExternalSort
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Schema, ValueType
from mangler.table.select import quote_name
from mangler.table.state import StateReader, StateWriter
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="sort",
    usage="sort by {COLUMN [descending]}, … [anycase] [nulls first|nulls last]",
    meaning="Puts the rows in the order of one or more columns, ascending by default; descending"
    " belongs to its column. Rows that are equal in them keep their order. Texts go by code point, so that"
    " numbers that are text are no numbers: convert them first.",
    clauses={
        "descending": "The column before it in descending order.",
        "anycase": "Letter case does not count.",
        "nulls first": "Nulls are before all values, in descending order too.",
        "nulls last": "Nulls are after all values, in descending order too; this is the default.",
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
    counters=("no_numbers", "whole_parts"),
)


FIRST = 1000
"""Cells of a batch that tell for most columns that they hold something else than numbers."""


@dataclass(frozen=True)
class Sort(GatheringStep):
    schema: Schema
    indices: tuple[int, ...]
    keys: tuple[SortKey, ...]
    makes_table = True

    def gather(self, budget: MemoryBudget) -> Sorting:
        texts = {
            self.schema.names[index]: index
            for index in self.indices
            if self.schema.columns[index].type is ValueType.TEXT
        }
        return Sorting(ExternalSort(self.indices, self.keys, budget), texts)

    def remarks(self, tally: Tally) -> list[str]:
        """Columns of text that holds nothing but numbers of different lengths: as texts, 10 comes before 9."""
        told = []
        for name, others in tally.histograms.get("no_numbers", {}).items():
            lengths = list(tally.histograms.get("whole_parts", ()))
            own = {key for key in lengths if key.rpartition(" ")[0] == name}
            if not others and len(own) > 1:
                column = quote_name(name)
                told.append(
                    f"{column} is text, and holds nothing but numbers: as texts 10 comes before 9;"
                    f" convert {column} to integer or float before"
                )
        return told


@dataclass
class Sorting(Gathering):
    rows: ExternalSort
    texts: Mapping[str, int] = field(default_factory=dict)
    """Columns of text among the keys."""
    tally: Tally = field(default_factory=Tally)

    def absorb(self, batch: Batch, partition: int) -> None:  # noqa: ARG002
        self.tally.rows_in += len(batch)
        self.tally.rows_out += len(batch)
        for name, index in self.texts.items():
            self._count_numbers(name, batch.columns[index])
        self.rows.add(batch)

    def _count_numbers(self, name: str, column: ColumnArray) -> None:
        """Cells that are numbers, by how many places they have before the point, until one comes that is none."""
        if self.tally.histogram("no_numbers")[name]:
            return
        places = whole_places(column.slice(0, FIRST))
        if len(column) > FIRST and not (places == NO_NUMBER).any():
            places = whole_places(column)
        self.tally.histogram("no_numbers")[name] = int((places == NO_NUMBER).any())
        counts = np.bincount(places[places > 0])
        for length in np.flatnonzero(counts).tolist():
            self.tally.histogram("whole_parts")[f"{name} {length}"] += int(counts[length])
        self._forget_numbers()

    def _forget_numbers(self) -> None:
        """Of columns with anything else nothing more is known than that, however the rows were divided."""
        others = self.tally.histogram("no_numbers")
        for name in [name for name, cells in others.items() if cells]:
            others[name] = 1
            lengths = self.tally.histogram("whole_parts")
            for key in [key for key in lengths if key.rpartition(" ")[0] == name]:
                del lengths[key]

    def merge(self, later: Sorting) -> None:
        self.tally.add(later.tally)
        self._forget_numbers()
        for batch in later.rows.consume():
            self.rows.add(batch)

    def dump(self, state: StateWriter) -> None:
        state.record(self.tally.to_record())
        state.batches(self.rows.consume())

    def load(self, state: StateReader) -> None:
        self.tally.add(Tally.from_record(state.record()))
        self._forget_numbers()
        for batch in state.batches():
            self.rows.add(batch)

    def release(self) -> Iterator[Batch]:
        return self.rows.sorted()


def bind(statement: Statement, schema: Schema) -> Sort:
    anycase, nulls_first = statement.has("anycase"), statement.has("nulls first")
    indices, keys = sort_keys(statement.values["column"], schema, anycase, nulls_first)
    return Sort(schema, indices, keys)


def check(statement: Statement) -> list[Mistake]:
    return said_twice([item["column"] for item in statement.values["column"]])
