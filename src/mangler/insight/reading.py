"""Reads a file once, and counts what its columns hold."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from mangler.engine.pipeline import WORKERS, in_order
from mangler.formats.delimited.blocks import Block
from mangler.formats.delimited.extract import open_extract
from mangler.formats.delimited.parse import Parser, UnfitRow
from mangler.insight.facts import Counts, Facts, distinct_in, facts_of
from mangler.insight.values import Values, bound_for
from mangler.kernels.text_view import TextArray
from mangler.language.columns import ColumnSelector
from mangler.steps.columnwise import matching_names
from mangler.table.schema import Schema
from mangler.table.select import select
from mangler.table.settings import ReadSettings

MOST_UNFIT = 20


@dataclass
class ColumnCounts:
    """A column's name, what was counted of its cells, and its distinct values."""

    name: str
    facts: Facts
    values: Values


@dataclass
class FileCounts:
    """What was counted in one pass over a file."""

    name: str
    """The extract as it was named."""
    columns: list[ColumnCounts]
    all_names: tuple[str, ...]
    """Of every column of the file, counted or not."""
    delimiter: str = ","
    found_out: dict[str, str] = field(default_factory=dict)
    rows: int = 0
    """Rows that have a place in the table."""
    unfit: int = 0
    unfit_examples: tuple[UnfitRow, ...] = ()
    hint: str = ""
    """What may be wrong with the way the file was read."""


@dataclass(frozen=True)
class _BlockCounts:
    columns: list[tuple[TextArray, Counts, Facts]]
    rows: int
    unfit: int
    unfit_examples: tuple[UnfitRow, ...]
    last_row: int
    bytes_read: int


@dataclass(frozen=True)
class _BlockWork:
    parser: Parser
    chosen: Sequence[int]

    def __call__(self, block: Block) -> _BlockCounts:
        parsed = self.parser.parse(block)
        columns = []
        for index in self.chosen:
            values, counts, nulls = distinct_in(parsed.batch.columns[index])
            columns.append((values, counts, facts_of(values, counts, nulls)))
        last_row = block.first_row + block.count - 1
        examples = tuple(parsed.unfit_rows(most=MOST_UNFIT))
        return _BlockCounts(
            columns, len(parsed.batch), len(parsed.unfit), examples, last_row, block.bytes_read
        )


def count_file(
    path: str,
    settings: ReadSettings,
    block_size: int,
    columns: ColumnSelector | None = None,
    progress: Callable[[int, int], None] | None = None,
    workers: int = WORKERS,
) -> FileCounts:
    """Counts the columns of a file, all or those named. Memory is bounded whatever its size."""
    extract = open_extract(path, settings, block_size)
    try:
        schema = Schema.of_text(extract.names)
        chosen = (
            select(columns, schema, "profile", matching_names).indices
            if columns
            else tuple(range(len(schema.columns)))
        )
        bound = bound_for(len(chosen))
        counted = FileCounts(
            extract.name,
            [ColumnCounts(extract.names[i], Facts(), Values(bound)) for i in chosen],
            extract.names,
            extract.dialect.delimiter,
            extract.found_out,
            hint=extract.hint(),
        )
        for block in in_order(extract.blocks(), _BlockWork(extract.parser, chosen), workers):
            counted.rows += block.rows
            counted.unfit += block.unfit
            counted.unfit_examples = (*counted.unfit_examples, *block.unfit_examples)[:MOST_UNFIT]
            for column, (values, counts, facts) in zip(counted.columns, block.columns, strict=True):
                column.facts.add(facts)
                column.values.absorb(values, counts)
            if progress:
                progress(block.last_row, block.bytes_read)
        for column in counted.columns:
            column.values.settle()
        return counted
    finally:
        extract.close()


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
