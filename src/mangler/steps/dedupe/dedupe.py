"""`dedupe`: of rows that are alike only one stays."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANKS
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.keys import folded
from mangler.kernels.keys.order import SortKey
from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.dedupe.all_at_once import Compared, Deduping
from mangler.steps.dedupe.as_they_come import DedupeAsTheyCome
from mangler.steps.dedupe.early import DedupeEarly
from mangler.steps.dedupe.remarks import alike_to_none
from mangler.steps.shared.case_twins import twins_told
from mangler.steps.shared.counters import TWINS
from mangler.steps.shared.key_columns import columns_after_by, refuse_lists, sort_keys
from mangler.steps.within.binding import Group
from mangler.steps.within.choosing import KeepPlaces, keep_places
from mangler.table.batch import Batch
from mangler.table.contract import EarlyStep
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="dedupe",
    usage="dedupe [by COLUMNS] [leaving (first|last|fullest)] [sorted by {COLUMN [descending]}, …] [anycase]",
    meaning="Of rows that are alike in all columns only one stays, where it was. Null is like null.",
    clauses={
        "by": "Only these columns are compared.",
        "leaving": "Which of them stays: first (the default), last, or fullest, the one with the fewest nulls and blank"
        " texts, of several such the first. With leaving first, and without sorted by, rows go on as they come, so that"
        " steps after it can set rows aside; up to 72 bytes of memory are taken for each different key.",
        "sorted by": "The order that says which row is the first or the last: equal ones as they come, nulls last.",
        "anycase": "Texts are alike in any letter case.",
    },
    examples=(
        Example("dedupe", "kiln | cone\n007 | 06\n007 | 6\n007 | 06", "kiln | cone\n007 | 06\n007 | 6"),
        Example(
            "dedupe by studio leaving last anycase",
            "studio | week\nClay Works | 18\nQuayside | 18\nclay works | 19",
            "studio | week\nQuayside | 18\nclay works | 19",
        ),
        Example(
            "dedupe by kiln leaving fullest",
            "kiln | cone | glaze\n007 | 06 | null\n007 | 6 | ash\n012 | null | shino",
            "kiln | cone | glaze\n007 | 6 | ash\n012 | null | shino",
        ),
        Example(
            "dedupe by kiln leaving last sorted by week",
            "kiln | week integer\n007 | 19\n012 | 18\n007 | 18",
            "kiln | week integer\n007 | 19\n012 | 18",
        ),
    ),
    counters=TWINS,
)


@dataclass(frozen=True)
class Dedupe(EarlyStep):
    schema: Schema
    compared: Compared

    def gather(self, budget: MemoryBudget) -> Deduping:
        return Deduping(self.compared, budget)

    def early(self, budget: MemoryBudget) -> DedupeEarly | None:
        """The last of rows that are alike is only known when all were seen."""
        return None if self.compared.last else DedupeEarly(self.schema, self.compared, budget)

    def remarks(self, tally: Tally) -> list[str]:
        """Likely oversights: rows that differ in letter case only, and that no two are alike."""
        is_idle = tally.rows_in and tally.rows_in == tally.rows_out
        idle = [alike_to_none(len(self.compared.indices) < len(self.schema.columns))] if is_idle else []
        return [*idle, *twins_told(tally, "row", "anycase takes them as alike")]


def bind(statement: Statement, schema: Schema) -> Dedupe | DedupeAsTheyCome | KeepPlaces:
    indices = tuple(range(len(schema.columns)))
    if statement.has("by"):
        indices = columns_after_by(statement, schema, DECLARATION.usage, "alike")
    span = statement.span_of("by") if statement.has("by") else statement.span
    refuse_lists(schema, indices, span, " Or leave it out: by … except {}.")
    leaving, anycase = statement.values.get("leaving"), statement.has("anycase")
    if statement.has("sorted by") or leaving == "fullest":
        return _by_place(statement, schema, indices, leaving == "last", anycase)
    if leaving == "first":
        return DedupeAsTheyCome(schema, indices, anycase)
    return Dedupe(schema, Compared(indices, leaving == "last", anycase))


def _by_place(
    statement: Statement, schema: Schema, indices: tuple[int, ...], last: bool, anycase: bool
) -> KeepPlaces:
    """The first row of each key in an order, or the last. Keys and emptiness are columns of their own meanwhile."""
    width, fullest = len(schema.columns), statement.values.get("leaving") == "fullest"
    extra = [Column(f"key {index}", schema.columns[index].type) for index in indices]
    order: tuple[int, ...] = ()
    keys: tuple[SortKey, ...] = ()
    if statement.has("sorted by"):
        order, keys = sort_keys(statement.values["column"], schema, anycase)
    if fullest:
        extra.append(Column("empty", ValueType.INTEGER))
        order, keys = (width + len(indices), *order), (SortKey(), *keys)

    def prepare(batch: Batch) -> Batch:
        added = [folded(batch.columns[index], anycase) for index in indices]
        if fullest:
            added.append(empty_cells(batch.columns, len(batch)))
        return batch.with_columns((*batch.columns, *added))

    group = Group(tuple(range(width, width + len(indices))), order, keys)
    prepared = Schema((*schema.columns, *extra), schema.gone)
    remark = alike_to_none(len(indices) < width)
    return keep_places(schema, group, 1, last, statement.span, remark, prepare, prepared)


def empty_cells(columns: Sequence[ColumnArray], count: int) -> ColumnArray:
    """How many cells of each row are null, or a text of blanks only."""
    total = np.zeros(count, np.int64)
    for column in columns:
        empty = column.is_null()
        if pa.types.is_string(column.type):
            empty = pc.or_kleene(empty, pc.equal(pc.utf8_trim(column, characters=BLANKS), ""))
        total += np.asarray(empty)
    return from_numpy(total)
