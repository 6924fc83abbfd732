"""Reads a file once, and counts what its columns hold."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import field

import numpy as np

from mangler.formats.contract import Partition, ReadRequest, UnfitRow
from mangler.formats.reading import read_partitions
from mangler.formats.registry import open_source
from mangler.insight.columns.facts import Counts, Facts, distinct_in, facts_of
from mangler.insight.columns.places import Places
from mangler.insight.columns.rows import Rows, RowsRead, rows_read
from mangler.insight.columns.values import Values, bound_for
from mangler.kernels.text.text_view import TextArray
from mangler.language.columns import ColumnSelector
from mangler.late_dataclass import dataclass
from mangler.steps.shared.columnwise import matching_names
from mangler.table.in_order import WORKERS
from mangler.table.schema import Column, ValueType
from mangler.table.select import select
from mangler.table.settings import ReadSettings
from mangler.table.stored_types import describe_type

MOST_UNFIT = 20


@dataclass
class ColumnCounts:
    """A column's name, what was counted of its cells, and its distinct values."""

    name: str
    facts: Facts
    values: Values
    type: ValueType = ValueType.TEXT
    """The one that the file gives it."""
    stored: str = "text"
    """The same in words: that of the file where steps do not know it."""

    @property
    def is_text(self) -> bool:
        return self.type is ValueType.TEXT


@dataclass
class FileCounts:
    """What was counted in one pass through a file."""

    name: str
    """The extract as it was named."""
    columns: list[ColumnCounts]
    all_names: tuple[str, ...]
    """Of every column of the file, counted or not."""
    detected: dict[str, str] = field(default_factory=dict)
    rows: int = 0
    """Rows that have a place in the table."""
    unfit: int = 0
    unfit_examples: tuple[UnfitRow, ...] = ()
    read_as: ReadSettings = field(default_factory=ReadSettings)
    """How it was read, said or detected."""
    layout_found: bool = False
    """Whether that is not what a run would detect by itself."""
    hint: str = ""
    """What may be wrong with the way the file was read."""
    table: Rows = field(default_factory=Rows)
    """What was counted of whole rows."""
    given_names: tuple[str, ...] = ()
    """Names of columns that have none in the file, or that of another column."""


@dataclass(frozen=True)
class _PartitionCounts:
    columns: list[tuple[TextArray, Counts, Facts]]
    rows: int
    unfit: int
    unfit_examples: tuple[UnfitRow, ...]
    table: RowsRead


def count_file(
    path: str,
    settings: ReadSettings,
    partition_size: int,
    columns: ColumnSelector | None = None,
    progress: Callable[[int, int], None] | None = None,
    workers: int = WORKERS,
) -> FileCounts:
    """Counts the columns of a file, all or those named. Memory is bounded whatever its size."""
    source = open_source(path, ReadRequest(settings, partition_size, survey=True))
    try:
        schema = source.schema
        chosen = (
            select(columns, schema, "profile", matching_names).indices
            if columns
            else tuple(range(len(schema.columns)))
        )
        bound = bound_for(len(chosen))
        # What is not said was detected already.
        why = source.explain_missing() if settings.delimiter is not None else None
        counted = FileCounts(
            source.name,
            [_of_column(schema.columns[i], bound) for i in chosen],
            tuple(schema.names),
            dict(source.detected),
            read_as=source.read_as,
            layout_found=source.layout_found,
            hint=why.message if why is not None else "",
            given_names=tuple(source.names_given),
        )

        def count(partition: Partition) -> _PartitionCounts:
            parsed = source.read(partition)
            counts = []
            for index in chosen:
                values, number, nulls = distinct_in(parsed.batch.columns[index])
                facts = facts_of(values, number, nulls)
                if nulls:
                    empty = np.asarray(parsed.batch.columns[index].is_null())
                    facts.null_places = Places.of(parsed.batch.rows[empty])
                counts.append((values, number, facts))
            examples = tuple(parsed.unfit_rows(most=MOST_UNFIT))
            table = rows_read(parsed.batch, tuple(chosen), partition.index == 0)
            return _PartitionCounts(counts, len(parsed.batch), len(parsed.unfit), examples, table)

        for part in read_partitions(source, count, workers, progress=progress):
            counted.rows += part.rows
            counted.table.add(part.table)
            counted.unfit += part.unfit
            counted.unfit_examples = (*counted.unfit_examples, *part.unfit_examples)[:MOST_UNFIT]
            for column, (values, counts, facts) in zip(counted.columns, part.columns, strict=True):
                column.facts.add(facts)
                column.values.absorb(values, counts)
        for column in counted.columns:
            column.values.settle()
        return counted
    finally:
        source.close()


def _of_column(column: Column, bound: int) -> ColumnCounts:
    return ColumnCounts(column.name, Facts(), Values(bound), column.type, describe_type(column))


def count_columns(name: str, columns: Mapping[str, TextArray]) -> FileCounts:
    """Counts columns that are there already, all of one length."""
    bound = bound_for(len(columns))
    counted = FileCounts(name, [], tuple(columns))
    for column, cells in columns.items():
        values, counts, nulls = distinct_in(cells)
        own = ColumnCounts(column, facts_of(values, counts, nulls), Values(bound))
        own.values.absorb(values, counts)
        own.values.settle()
        counted.columns.append(own)
        counted.rows = len(cells)
    return counted
