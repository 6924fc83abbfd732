"""A sheet of a workbook as an extract: where its table is, its columns, its rows."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import closing
from dataclasses import field, replace
from itertools import chain, islice
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.formats.aside import ASIDE_COLUMNS
from mangler.formats.contract import ReadRequest
from mangler.formats.location import Location
from mangler.formats.typed_aside import TypedAsideFile
from mangler.formats.typed_source import (
    COMMON_CLAUSES,
    Reading,
    TypedPartition,
    TypedSource,
    is_aside,
    typed_source,
)
from mangler.formats.workbook.book import Book, Sheet
from mangler.formats.workbook.columns import Kind, adapted, built, spelled, type_for
from mangler.formats.workbook.merged import with_merged
from mangler.kernels.arrow import ColumnArray
from mangler.language.mistake import enumerate_names, extract_does_not_fit
from mangler.late_dataclass import dataclass
from mangler.table.batch import RowNumbers
from mangler.table.settings import ReadSettings

NAME = "workbook"
READ_CLAUSES = COMMON_CLAUSES | {
    "sheet",
    "merged repeat",
    "header row",
    "header rows",
    "header absent",
    "skip",
    "skip last",
}
CHUNK = 8192
MOST_CELLS = 500_000
"""Rows, and cells, that are made columns of at a time."""
LOOKED_AT = 50
"""Rows among which the header is looked for."""
Row = Sequence[Any]


@dataclass
class Table:
    """The table of a sheet, its cells as columns."""

    names: list[str]
    header_row: int | None
    kinds: list[set[Kind]]
    chunks: list[tuple[list[ColumnArray], Any]] = field(default_factory=list)
    """The columns of some rows, and the numbers of these rows in the sheet."""
    empty_rows: int = 0


def open_workbook(location: Location, request: ReadRequest, make_sink: Any) -> TypedSource:
    """Opens a workbook, and reads the sheet that is meant."""
    settings = request.settings
    with closing(Book(location)) as book:
        sheet = book.sheet(settings)
        table = _table(sheet, settings, location.name)
    types = [type_for(kinds) for kinds in table.kinds]
    aside = is_aside(table.names)
    front = len(ASIDE_COLUMNS) if aside else 0
    schema = pa.schema(list(zip(table.names[front:], types[front:], strict=True)))

    def partitions() -> Iterator[TypedPartition]:
        return _partitions(table, types, schema, front, location, settings.skip_last)

    header = {} if table.header_row is None else {"header": f"row {table.header_row}"}
    said_header = settings.header_row is not None or settings.header_absent
    return typed_source(
        location,
        request,
        NAME,
        Reading(schema, partitions),
        lambda path, source: TypedAsideFile(path, source, schema, make_sink),
        details={"sheet": sheet.name},
        detected={"sheet": sheet.name} | ({} if said_header else header),
        was_set_aside=aside,
        remarks=_remarks(table),
        # The address says which of several sheets is meant; a recipe says it too.
        read_as=replace(settings, sheet=sheet.name) if location.part and settings.sheet is None else settings,
    )


def _remarks(table: Table) -> list[str]:
    found = []
    if table.empty_rows:
        rows = "1 empty row" if table.empty_rows == 1 else f"{table.empty_rows:,} empty rows"
        found.append(f"{rows} ignored")
    mixed = [
        f"{name} ({' and '.join(sorted(kind.value for kind in kinds))})"
        for name, kinds in zip(table.names, table.kinds, strict=True)
        if len(kinds) > 1 and pa.types.is_string(type_for(kinds))
    ]
    if mixed:
        what = "1 column holds" if len(mixed) == 1 else f"{len(mixed):,} columns hold"
        found.append(f"{what} cells of several kinds, read as text: {enumerate_names(mixed, 4)}")
    return found


def _table(sheet: Sheet, settings: ReadSettings, name: str) -> Table:
    """Finds the header, and makes columns of the rows below it."""
    rows = enumerate(sheet.rows(), 1)
    for _ in islice(rows, settings.skip):
        pass
    first = list(islice(rows, max(LOOKED_AT, settings.header_row or 0)))
    filled = [(number, row) for number, row in first if _filled(row)]
    if not filled:
        raise extract_does_not_fit(
            "file-empty", f"{name}: the sheet {sheet.name} holds no cells", "Is it the right sheet?"
        )
    header_row, names, below = _header(first, settings, name)
    table = Table(names, header_row, [set() for _ in names])
    width = len(names)
    most = max(1, min(CHUNK, MOST_CELLS // max(1, width)))
    waiting: list[Row] = []
    numbers: list[int] = []

    def take() -> None:
        columns = list(zip(*waiting, strict=True)) if waiting else []
        made = [built(column) for column in columns]
        for known, (_, kinds) in zip(table.kinds, made, strict=True):
            known |= kinds
        table.chunks.append(([array for array, _ in made], np.array(numbers, np.int64)))

    rest: Iterator[tuple[int, Row]] = chain(below, rows)
    if settings.merged_repeat:
        top = header_row or settings.skip
        rest = with_merged(rest, [area for area in sheet.merged() if area[0] >= top])
    for number, row in rest:
        _add(table, waiting, numbers, number, row, width)
        if len(waiting) >= most:
            take()
            waiting, numbers = [], []
    if waiting:
        take()
    _drop_margins(table)
    return table


def _add(table: Table, waiting: list[Row], numbers: list[int], number: int, row: Row, width: int) -> None:
    if not _filled(row):
        table.empty_rows += 1
        return
    waiting.append(row[:width] if len(row) >= width else [*row, *[""] * (width - len(row))])
    numbers.append(number)


def _filled(row: Row) -> int:
    """How many cells of a row hold something."""
    return sum(cell != "" and cell is not None for cell in row)


def _header(
    first: list[tuple[int, Row]], settings: ReadSettings, name: str
) -> tuple[int | None, list[str], list[tuple[int, Row]]]:
    """The row of the header, the names in it, and the rows below it.

    Without a row that is said, it is the first one of which more than half of the columns are filled: a title fills
    fewer.
    """
    width = max((len(row) for _, row in first), default=0)
    if settings.header_absent:
        return None, [f"column_{number}" for number in range(1, width + 1)], first
    if settings.header_row is not None:
        wanted = settings.header_row + settings.skip
        at = next((index for index, (number, _) in enumerate(first) if number == wanted), None)
        if at is None or not _filled(first[at][1]):
            raise extract_does_not_fit(
                "no-header",
                f"{name}: row {wanted} holds no names",
                "Name the row of the header, as the sheet numbers it.",
            )
    else:
        most = max(_filled(row) for _, row in first)
        at = next(index for index, (_, row) in enumerate(first) if _filled(row) * 2 > most)
    rows = [row for _, row in first[at : at + settings.header_rows]]
    return first[at][0], _names(rows, width), first[at + settings.header_rows :]


def _names(rows: list[Row], width: int) -> list[str]:
    """The names of columns; those of several rows put together, where a name above reaches over empty cells."""
    texts = [[spelled(cell).strip() if cell is not None else "" for cell in row] for row in rows]
    for above in texts[:-1]:
        for index in range(1, len(above)):
            above[index] = above[index] or above[index - 1]
    padded = [[*row, *[""] * (width - len(row))] for row in texts]
    return [" ".join(part for part in parts if part) for parts in zip(*padded, strict=True)]


def _drop_margins(table: Table) -> None:
    """Takes columns away that have neither a name nor a cell."""
    keep = [
        index
        for index, (name, kinds) in enumerate(zip(table.names, table.kinds, strict=True))
        if name or kinds
    ]
    if len(keep) == len(table.names):
        return
    table.names = [table.names[index] for index in keep]
    table.kinds = [table.kinds[index] for index in keep]
    table.chunks = [([columns[index] for index in keep], numbers) for columns, numbers in table.chunks]


def _partitions(
    table: Table, types: list[Any], schema: Any, front: int, location: Location, skip_last: int
) -> Iterator[TypedPartition]:
    total = max(0, sum(len(numbers) for _, numbers in table.chunks) - skip_last)
    first = 1
    for index, (columns, numbers) in enumerate(table.chunks):
        count = min(len(numbers), total - first + 1)
        if count <= 0:
            return
        arrays = [adapted(array, kind).slice(0, count) for array, kind in zip(columns, types, strict=True)]
        own = arrays[front:]
        records = (
            pa.RecordBatch.from_arrays(own, schema=schema)
            if own
            else pa.RecordBatch.from_arrays([], names=[])
        )

        def lines(rows: RowNumbers, numbers: Any = numbers, first: int = first) -> RowNumbers:
            found: RowNumbers = numbers[rows - first]
            return found

        done = location.size * (first + count - 1) // max(1, total)
        last = first + count - 1 >= total
        yield TypedPartition(index, first, records, done, last, location.name, lines=lines)
        first += count
