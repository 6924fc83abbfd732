"""A split into rows: one row per part, the other columns repeated."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.fields import Columns, entries_of, with_entries
from mangler.kernels.text.growth import refuse_repeats
from mangler.kernels.text.parts import Numbers
from mangler.kernels.text.patterns import few_distinct
from mangler.kernels.text.repeat import numbers_within, repeated, repeated_rows
from mangler.kernels.text.text_view import Flags, TooLargeError
from mangler.language.literals import Name
from mangler.language.mistake import extract_does_not_fit
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
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
class _Cut:
    """All parts of a column; for each cell where its parts start, and how many it has."""

    texts: ColumnArray
    first: Numbers
    counts: Numbers


@dataclass(frozen=True)
class SplitRows(SplitsCells, RowStep):
    placement: Placement
    index: int
    further: tuple[int, ...]
    """More columns that are split alongside; then all of them are split in their cells."""
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

    def split_preview(self) -> SplitOfCells | None:
        return None if self.further else self

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
        every = [self.index, *self.further]
        tally.rows = batch.rows if met is None else batch.rows[met]
        cut = [self._cut(batch.columns[index], met, tally) for index in every]
        counts = np.max([one.counts for one in cut], axis=0)
        rows = np.maximum(counts, 1)
        others = Columns(
            one for at, one in enumerate(entries_of(batch.columns)) if not self.in_cell or at not in every
        )
        refuse_repeats(others, rows)
        sources = np.repeat(np.arange(len(batch)), rows)
        carried: list[Any] = entries_of(batch.columns)
        if len(sources) != len(batch):
            again = iter(entries_of(repeated_rows(others, sources)))
            carried = [
                None if self.in_cell and index in every else next(again) for index in range(len(carried))
            ]
        new = []
        for index, one in zip(every, cut, strict=True):
            parts = _parts_of_rows(one, rows)
            if self.in_cell and met is not None and not met.all():
                cells = repeated(batch.columns[index], sources)
                parts = pc.if_else(from_numpy(met[sources]), parts, cells)
            new.append(parts)
        if self.further:
            uneven = np.any([one.counts != counts for one in cut], axis=0)
            tally.counts["uneven_rows"] += int(np.count_nonzero(uneven))
        if self.numbered:
            new.append(pa.array(numbers_within(rows) + 1, pa.int64(), mask=np.repeat(counts == 0, rows)))
        tally.counts["cells_changed"] += sum(map(len, new))
        tally.counts["nulls_made"] += sum(array.null_count for array in new)
        tally.rows_out = len(sources)
        tally.rows_added = len(sources) - len(batch)
        put = self._put(carried, new)
        return Batch(with_entries((), put), np.repeat(batch.rows, rows), batch.origin)

    def _put(self, carried: list[Any], new: list[ColumnArray]) -> list[Any]:
        """The columns that come out. Of several that are split each stays in its place."""
        if not self.further:
            return self.placement.put(carried, new)
        columns = list(carried)
        for index, parts in zip((self.index, *self.further), new, strict=False):
            columns[index] = parts
        numbers = new[1 + len(self.further) :]
        return self.placement.put(columns, numbers)

    def _cut(self, column: ColumnArray, met: Flags | None, tally: Tally) -> _Cut:
        """The parts of a column; rows that are not met have none."""
        given = column if met is None else column.filter(from_numpy(met))
        texts, first, counts = self._parts(given)
        self.splitter.note(given, counts, tally)
        if met is not None:
            sources = np.where(met, np.cumsum(met) - 1, 0)
            first, counts = (np.append(each, 0)[sources] * met for each in (first, counts))
        return _Cut(texts, first, counts)

    def _parts(self, column: ColumnArray) -> tuple[ColumnArray, Numbers, Numbers]:
        """All parts, where those of each cell start, and how many it has; each distinct value cut once."""
        if few_distinct(column):
            encoded = as_dictionary(column)
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
        return pc.if_else(from_numpy(parts.empty), pa.scalar(self.absent, pa.string()), texts)

    def facts(self, tally: Tally) -> list[str]:
        messages = self.splitter.facts(tally)
        if uneven := tally.counts["uneven_rows"]:
            rows = "1 row has" if uneven == 1 else f"{uneven:,} rows have"
            messages.append(f"{rows} more parts in one column than in another, where null is")
        return messages

    def remarks(self, tally: Tally) -> list[str]:
        return [*remarks_on_condition(tally), *self.splitter.remarks(tally)]


def _parts_of_rows(cut: _Cut, rows: Numbers) -> ColumnArray:
    """The parts of each cell, one below the other in so many rows; null in those that it has none for."""
    ends = np.cumsum(rows)
    every = np.arange(ends[-1] if len(ends) else 0)
    if not len(cut.texts):
        return pa.nulls(len(every), pa.string())
    numbers = np.repeat(cut.first - (ends - rows), rows)
    numbers += every
    lacking = cut.counts < rows
    if lacking.any():
        # Behind the last part is a null, which is taken where there is none.
        missing = len(cut.texts)
        if (rows[lacking] == 1).all():
            numbers[ends[lacking] - 1] = missing
        else:
            numbers[every >= np.repeat(ends - rows + cut.counts, rows)] = missing
        return repeated(pa.concat_arrays([cut.texts, pa.nulls(1, pa.string())]), numbers)
    in_order = len(numbers) == len(cut.texts) and bool((numbers == every).all())
    return cut.texts if in_order else repeated(cut.texts, numbers)


def rows_step(
    statement: Statement, schema: Schema, indices: Sequence[int], splitter: Splitter, usage: str
) -> SplitRows:
    index, *further = indices
    source = schema.columns[index].name
    name, number = statement.get("as", Name), statement.get("numbered as", Name)
    new = []
    if not further:
        span = name.span if name else statement.span_of("column")
        new.append((Column(name.value if name else source), span))
    if number is not None:
        new.append((Column(number.value, ValueType.INTEGER), number.span))
    in_cell = name is None
    in_place = (in_cell and not further) or statement.has("in place")
    placement = placed(statement, schema, [*indices], new, in_place=in_place)
    absent = statement.values.get("absent")
    return SplitRows(
        placement,
        index,
        tuple(further),
        splitter,
        None if absent is None else absent.value,
        in_cell,
        number is not None,
        where(statement, schema, usage),
        statement.span,
    )
