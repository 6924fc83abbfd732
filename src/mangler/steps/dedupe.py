"""`dedupe`: of rows that are alike only one stays."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANKS
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.first_seen import NONE, FirstSeenIndex
from mangler.kernels.keys.keys import folded, one_of_each
from mangler.kernels.keys.order import SortKey
from mangler.kernels.text.growth import refuse_batch_beyond
from mangler.kernels.text.text_view import Flags
from mangler.kernels.values.format_values import format_values
from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.case_twins import CaseTwins, twins_told
from mangler.steps.shared.columnwise import such_as
from mangler.steps.shared.counters import TWINS
from mangler.steps.shared.key_columns import columns_after_by, refuse_lists, sort_keys
from mangler.steps.within.binding import Group
from mangler.steps.within.choosing import KeepPlaces, keep_places
from mangler.table.batch import Batch
from mangler.table.contract import Gathering, GatheringStep, OrderedStep
from mangler.table.in_order import in_order
from mangler.table.memory_budget import MemoryBudget
from mangler.table.partitioned_fold import PartitionedFold
from mangler.table.positions import indexes_of, positions_of
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.spillable_rows import SpillableRows, in_blocks
from mangler.table.state import StateReader, StateWriter
from mangler.table.tally import MOST_EXAMPLES, Tally

LOOKED_AT = 200_000
"""Rows of an extract of which keys are also remembered without letter case, for a remark."""

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


@dataclass
class Seen:
    """The keys of some rows; and of the first rows of an extract, the keys without letter case."""

    keys: FirstSeenIndex
    folded: FirstSeenIndex


@dataclass(frozen=True)
class DedupeAsTheyCome(OrderedStep[Seen]):
    """Lets the first row of each key pass at once; what was seen is remembered."""

    schema: Schema
    indices: tuple[int, ...]
    anycase: bool

    def initial(self) -> Seen:
        return Seen(FirstSeenIndex(), FirstSeenIndex())

    def summarise(self, batch: Batch) -> Seen:
        columns = [folded(batch.columns[index], self.anycase) for index in self.indices]
        first = self._first(batch)
        without_case = [folded(batch.columns[index].slice(0, first), True) for index in self.indices]
        return Seen(
            FirstSeenIndex.of(columns, batch.rows), FirstSeenIndex.of(without_case, batch.rows[:first])
        )

    def combine(self, earlier: Seen, later: Seen) -> Seen:
        earlier.keys.extend(later.keys)
        earlier.folded.extend(later.folded)
        refuse_batch_beyond(earlier.keys.size, "the keys that were seen")
        return earlier

    def apply(self, batch: Batch, before: Seen, own: Seen) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch))
        fresh = before.keys.first_row_of(own.keys) == NONE
        if first := self._first(batch):
            twins = fresh[:first] & (before.folded.first_row_of(own.folded) != NONE)
            tally.counts["case_twins"] += int(np.count_nonzero(twins))
            shown = format_values(batch.columns[self._texts()[0]])
            where = np.flatnonzero(twins)[:MOST_EXAMPLES].tolist()
            tally.note_found((int(batch.rows[i]), str(shown[i].as_py())) for i in where)
        out = batch if fresh.all() else batch.filter(fresh)
        tally.rows_out = len(out)
        return out, tally

    def _first(self, batch: Batch) -> int:
        """How many rows of a batch are among the first of the extract: of those letter case is looked at."""
        if self.anycase or not self._texts():
            return 0
        return int(np.count_nonzero(np.cumprod(batch.rows <= LOOKED_AT)))

    def _texts(self) -> list[int]:
        return [index for index in self.indices if self.schema.columns[index].type is ValueType.TEXT]

    def remarks(self, tally: Tally) -> list[str]:
        messages = [alike_to_none(len(self.indices) < len(self.schema.columns))]
        messages = messages if tally.rows_in and tally.rows_in == tally.rows_out else []
        if count := tally.counts["case_twins"]:
            rows = "1 row stayed that differs" if count == 1 else f"{count:,} rows stayed that differ"
            where = f" of the first {LOOKED_AT:,}" if tally.rows_in > LOOKED_AT else ""
            messages.append(
                f"{rows} from an earlier one only in letter case{where}{such_as(tally)}; anycase takes them as alike"
            )
        return messages


@dataclass(frozen=True)
class Dedupe(GatheringStep):
    schema: Schema
    indices: tuple[int, ...]
    last: bool
    anycase: bool

    def gather(self, budget: MemoryBudget) -> Deduping:
        return Deduping(self, budget)

    def remarks(self, tally: Tally) -> list[str]:
        return remarks_on(tally, len(self.indices) < len(self.schema.columns))


def remarks_on(tally: Tally, chosen: bool) -> list[str]:
    """`chosen`: only some columns are compared."""
    idle = [alike_to_none(chosen)] if tally.rows_in and tally.rows_in == tally.rows_out else []
    return [*idle, *twins_told(tally, "row", "anycase takes them as alike")]


def alike_to_none(chosen: bool) -> str:
    return "changed nothing: no two rows are alike" + " in these columns" * chosen


class Deduping(Gathering):
    """The rows wait in their order; of their keys, each with the position of its row, one per key is kept."""

    def __init__(self, step: Dedupe, budget: MemoryBudget) -> None:
        self._step, self._threads = step, budget.threads
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
        twins = CaseTwins(wanted=not self._step.anycase)
        for (keys,) in self._keys.released():
            if keys is not None:
                twins.add(keys.columns)
                stays[indexes_of(keys.rows, self._rows.runs)] = True
        twins.note(self.tally)
        self.tally.rows_out = int(np.count_nonzero(stays))
        staying = in_order(self._with_flags(stays), lambda one: one[0].filter(one[1]), self._threads)
        yield from in_blocks(staying, self._rows.origin)
        self._rows.close()

    def _with_flags(self, stays: Flags) -> Iterator[tuple[Batch, Flags]]:
        at = 0
        for batch in self._rows.consume():
            yield batch, stays[at : at + len(batch)]
            at += len(batch)


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
    return Dedupe(schema, indices, leaving == "last", anycase)


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
    return pa.array(total)
