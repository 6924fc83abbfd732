"""A split into rows: one row per part, the other columns repeated."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.growth import refuse_repeats
from mangler.kernels.text.parts import Numbers
from mangler.kernels.text.patterns import few_distinct
from mangler.kernels.text.repeat import numbers_within, repeated
from mangler.kernels.text.text_view import Flags, TooLargeError
from mangler.language.literals import Name
from mangler.language.mistake import extract_does_not_fit
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.steps.shared.columnwise import apply_where, remarks_on_condition, where
from mangler.steps.shared.new_columns import Placement, placed
from mangler.steps.shared.splitter import SplitsCells, Splitter
from mangler.table.batch import Batch
from mangler.table.contract import RowStep, SplitOfCells
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.tally import Tally

if TYPE_CHECKING:
    from mangler.steps.shared.conditions import Condition


@dataclass(frozen=True)
class SplitRows(SplitsCells, RowStep):
    placement: Placement
    index: int
    splitter: Splitter
    absent: str | None
    in_cell: bool
    """Whether the part takes the cell's place: without a name of its own."""
    numbered: bool
    condition: Condition | None
    span: SourceSpan

    @property
    def schema(self) -> Schema:
        return self.placement.schema

    @property
    def new_names(self) -> list[str]:
        return self.placement.new_names

    def split_preview(self) -> SplitOfCells:
        return self

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        batch, met, tally = apply_where(batch, self.condition)
        try:
            return self._explode(batch, met, tally), tally
        except (TooLargeError, pa.ArrowCapacityError) as error:
            raise extract_does_not_fit(
                "too-large",
                f"rows {batch.rows[0]:,} to {batch.rows[-1]:,}: {error}",
                "Each part repeats the other columns: drop those that are not needed before this step.",
                self.span,
            ) from None

    def _explode(self, batch: Batch, met: Flags | None, tally: Tally) -> Batch:
        column = batch.columns[self.index]
        given = column if met is None else column.filter(pa.array(met))
        texts, first, counts = self._parts(given)
        tally.rows = batch.rows if met is None else batch.rows[met]
        self.splitter.note(given, counts, tally)
        if met is not None:
            sources = np.where(met, np.cumsum(met) - 1, 0)
            first, counts = (np.append(each, 0)[sources] * met for each in (first, counts))
        rows = np.maximum(counts, 1)
        others = [array for at, array in enumerate(batch.columns) if not self.in_cell or at != self.index]
        refuse_repeats(others, rows)
        sources = np.repeat(np.arange(len(batch)), rows)
        within = numbers_within(rows)
        there = counts[sources] > 0
        parts = _taken(texts, first[sources] + within, there)
        carried: list[ColumnArray] = list(batch.columns)
        if len(sources) != len(batch):
            carried = [
                None if self.in_cell and index == self.index else repeated(array, sources)
                for index, array in enumerate(batch.columns)
            ]
        if self.in_cell and met is not None and not met.all():
            cells = repeated(column, sources)
            parts = pc.if_else(pa.array(met[sources]), parts, cells)
        new = [parts]
        if self.numbered:
            new.append(pa.array(within + 1, pa.int64(), mask=~there))
        tally.counts["cells_changed"] += sum(map(len, new))
        tally.counts["nulls_made"] += sum(array.null_count for array in new)
        tally.rows_out = len(sources)
        tally.rows_added = len(sources) - len(batch)
        return Batch(tuple(self.placement.put(carried, new)), batch.rows[sources], batch.origin)

    def _parts(self, column: ColumnArray) -> tuple[ColumnArray, Numbers, Numbers]:
        """All parts, where those of each cell start, and how many it has; each distinct value cut once."""
        if few_distinct(column):
            encoded = column.dictionary_encode()
            parts = self.splitter.cut(encoded.dictionary)
            codes = np.asarray(encoded.indices.fill_null(len(encoded.dictionary)))
            return self._texts(parts), parts.first[codes], np.append(parts.counts, 0)[codes]
        parts = self.splitter.cut(column)
        return self._texts(parts), parts.first[:-1], parts.counts

    def _texts(self, parts: Any) -> ColumnArray:
        """The parts as a column, with what means empty ones."""
        texts = parts.all_texts()
        if not parts.empty.any():
            return texts
        return pc.if_else(pa.array(parts.empty), pa.scalar(self.absent, pa.string()), texts)

    def facts(self, tally: Tally) -> list[str]:
        return self.splitter.facts(tally)

    def remarks(self, tally: Tally) -> list[str]:
        return [*remarks_on_condition(tally), *self.splitter.remarks(tally)]


def _taken(texts: ColumnArray, numbers: Numbers, there: Flags) -> ColumnArray:
    """The parts of these numbers; null where there is none."""
    if not len(texts):
        return pa.nulls(len(numbers), pa.string())
    if there.all():
        in_order = len(numbers) == len(texts) and bool((numbers == np.arange(len(texts))).all())
        return texts if in_order else repeated(texts, numbers)
    return texts.take(pa.array(np.where(there, numbers, 0), mask=~there))


def rows_step(statement: Statement, schema: Schema, index: int, splitter: Splitter, usage: str) -> SplitRows:
    source = schema.columns[index].name
    name, number = statement.get("as", Name), statement.get("numbered as", Name)
    span = name.span if name else statement.span_of("column")
    new = [(Column(name.value if name else source), span)]
    if number is not None:
        new.append((Column(number.value, ValueType.INTEGER), number.span))
    in_cell = name is None
    placement = placed(statement, schema, [index], new, in_place=in_cell or statement.has("in place"))
    absent = statement.values.get("absent")
    return SplitRows(
        placement,
        index,
        splitter,
        None if absent is None else absent.value,
        in_cell,
        number is not None,
        where(statement, schema, usage),
        statement.span,
    )
