"""Several extracts as one table: the steps that see the rows of all of them, and the output."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import closing
from dataclasses import field, replace
from pathlib import Path
from time import perf_counter

import pyarrow as pa

from mangler.engine.plan.plan import first_of_many, go_on, plan_held, steps_of
from mangler.engine.run.acceptance import require_acceptable, require_all_written
from mangler.engine.run.combined_output import WaitingRows, fitted, schema_of_all
from mangler.engine.run.destination import FileOutput, Nowhere
from mangler.engine.run.executor import Executor
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.engine.run.summary import Summary
from mangler.formats.aside import AsideRows
from mangler.formats.contract import Encoded, Explanation, ParsedBatch, Partition, ReadRequest, Source
from mangler.formats.registry import open_source
from mangler.formats.row_limit import too_many_rows
from mangler.kernels.arrow import ColumnArray
from mangler.language.mistake import Refusal
from mangler.late_dataclass import dataclass
from mangler.steps import read as read_verb
from mangler.table.batch import Batch, RowNumbers
from mangler.table.schema import Column, Schema
from mangler.table.settings import ReadSettings, WriteSettings
from mangler.table.stored_types import arrow_type, to_worked

FIRST_ROWS = 1
"""Of formats whose columns are known only when all rows were read, so many are read to see which there are."""
TYPES_OF_VALUES = "JSON"
"""The start of the names of these formats."""


def steps_alone(recipe: LinkedRecipe, extracts: Sequence[str]) -> int | None:
    """How many of the first steps each extract passes by itself; None where all of them look at one row at a time.

    The extracts are opened for their columns, and no more is read than their first rows. Steps that see the rows of all
    are bound to the columns of all: what is wrong with them is raised here, where the columns are known from the start.
    What is wrong with a single extract is said by its own run.
    """
    opened: list[Schema] = []
    firsts: list[int] = []
    all_known = "-" not in extracts
    parsed = recipe.parsed
    request = ReadRequest(read_verb.settings(parsed.only("read")), rows=FIRST_ROWS)
    for extract in extracts:
        if extract == "-":  # it can be read once
            continue
        try:
            with closing(open_source(extract, request)) as source:
                opened.append(source.schema)
                all_known &= not source.details["format"].startswith(TYPES_OF_VALUES)
        except Refusal:
            continue
        if (first := first_of_many(parsed, opened[-1])) is not None:
            firsts.append(first)
    if not firsts:
        return None
    alone = min(firsts)
    columns = [found for schema in opened if (found := _columns_after(recipe, schema, alone)) is not None]
    if columns and all_known:
        plan_held(parsed, steps_of(parsed)[alone:], schema_of_all(columns))
    return alone


def _columns_after(recipe: LinkedRecipe, schema: Schema, alone: int) -> tuple[Column, ...] | None:
    """The columns that come out of the first steps; None where they do not fit."""
    try:
        return go_on(recipe.parsed, steps_of(recipe.parsed)[:alone], schema).schema.columns
    except Refusal:
        return None


def write_one_table(
    recipe: LinkedRecipe, parts: Sequence[WaitingRows], output: FileOutput, options: RunOptions
) -> Summary:
    """Takes the waiting rows of all extracts through the steps that see all of them, into the output.

    What `read` and `write` leave open is as in the first extract. The summary is that of these steps.
    """
    started = perf_counter()
    schema = schema_of_all([part.columns for part in parts])
    first, parsed = parts[0], recipe.parsed
    steps = steps_of(parsed)[options.first_steps :] if options.first_steps is not None else []
    planned = plan_held(parsed, steps, schema)
    most = output.most_rows(first.source, first.settings)
    rows = sum(part.rows_written for part in parts)
    if most is not None and rows > most and not planned.steps:  # such steps may leave fewer
        raise too_many_rows(most)
    source = _WaitingSource(f"{len(parts)} extracts together", schema, parts)
    plain = replace(
        options, rows=None, progress=None, recorder=None, watcher=None, first_steps=None, keep_aside=False
    )

    def open_with(columns: Schema) -> None:
        output.open(columns, first.settings, first.source)

    ends = _EndsLikeLast(output, parts[-1].source)
    executor = Executor(parsed, source, ends, open_with, _NoAside(), plain, f"rows of {len(parts)} extracts")
    executor.run(planned)
    require_acceptable(parsed, executor.account, all_rows=True)
    summary = executor.account.close(output.warnings(), None, output.remarks(), empty=True)
    require_all_written(summary, output.rows_written)
    summary.stop_clock(perf_counter() - started)
    return summary


@dataclass(frozen=True)
class _WaitingPartition:
    """Rows of one extract as they left its own steps."""

    index: int
    first_row: int
    batch: Batch
    columns: tuple[Column, ...]
    is_last: bool
    bytes_read: int = 0

    @property
    def row_count(self) -> int:
        return len(self.batch)

    def locate(self, rows: RowNumbers) -> RowNumbers | None:  # noqa: ARG002
        return None

    def as_read(self, rows: RowNumbers) -> ColumnArray:
        return pa.nulls(len(rows), pa.string())


@dataclass(frozen=True)
class _WaitingSource:
    """The rows that wait, as an extract: extract after extract, with the columns of all."""

    name: str
    schema: Schema
    parts: Sequence[WaitingRows]
    detected: Mapping[str, str] = field(default_factory=dict)
    details: Mapping[str, str] = field(default_factory=dict)
    read_as: ReadSettings = field(default_factory=ReadSettings)
    names_given: tuple[str, ...] = ()
    was_set_aside: bool = False
    layout_found: bool = False
    division: None = None
    newest: None = None

    def partitions(self) -> Iterator[_WaitingPartition]:
        index, row = 0, 1
        for part in self.parts:
            for batch in part:
                yield _WaitingPartition(index, row, batch, part.columns, False)
                index, row = index + 1, row + len(batch)

    def read(self, partition: Partition) -> ParsedBatch:
        assert isinstance(partition, _WaitingPartition)
        batch = partition.batch
        own = {column.name: (index, column) for index, column in enumerate(partition.columns)}
        arrays = []
        for column in self.schema.columns:
            index, its = own.get(column.name, (-1, column))
            missing = index < 0
            stored = (
                pa.nulls(len(batch), arrow_type(column))
                if missing
                else fitted(batch.columns[index], its, column)
            )
            arrays.append(to_worked(stored, column))
        return ParsedBatch(batch.with_columns(arrays))

    def explain_missing(self) -> Explanation | None:
        return None

    def remarks(self) -> list[str]:
        return []

    def digest(self) -> str | None:
        return None

    def aside_file(self, path: Path | None) -> _NoAside:  # noqa: ARG002
        return _NoAside()

    def close(self) -> None: ...


class _NoAside:
    """No row is set aside any more: steps that would are refused."""

    path: Path | None = None

    def add(self, rows: AsideRows) -> None:
        assert not len(rows)

    def commit(self) -> None: ...

    def discard(self) -> None: ...


class _EndsLikeLast(Nowhere):
    """The output, which ends as the last extract does. It is put in its place by whoever made it."""

    def __init__(self, output: FileOutput, last: Source) -> None:
        self._output, self._last = output, last
        self.path = output.path

    @property
    def rows_written(self) -> int:
        return self._output.rows_written

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        self._output.open(schema, settings, like)

    def encode(self, batch: Batch) -> Encoded:
        return self._output.encode(batch)

    def write(self, encoded: Encoded) -> None:
        self._output.write(encoded)

    def finish(self, like: Source) -> None:  # noqa: ARG002
        self._output.finish(self._last)
