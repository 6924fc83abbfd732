"""Reads some rows of a table to be looked at, and no more of the file than that takes."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import field
from typing import Any

from mangler.formats.contract import PARTITION_SIZE, Partition, ReadRequest, Source, UnfitRow
from mangler.formats.reading import read_partitions
from mangler.formats.registry import open_source
from mangler.language.columns import ColumnSelector
from mangler.language.mistake import extract_does_not_fit
from mangler.language.statement import Statement
from mangler.language.tables import Cell
from mangler.late_dataclass import dataclass
from mangler.steps.shared.columnwise import matching_names
from mangler.steps.shared.conditions import Condition, condition_of
from mangler.table.read_words import read_statement
from mangler.table.schema import Column
from mangler.table.select import select
from mangler.table.settings import ReadSettings
from mangler.table.small import cells_of
from mangler.table.tally import Tally

SMALL_PARTITION = 1 << 17
"""Bytes of a partition where only the first rows are wanted."""
ROWS = 20


@dataclass
class View:
    """Rows `numbers` of an extract, `cells` a column at a time; and what is between them that is no row."""

    extract: str
    detected: dict[str, str]
    columns: tuple[Column, ...]
    cells: list[list[Cell]]
    numbers: list[int] = field(default_factory=list)
    unfit: list[UnfitRow] = field(default_factory=list)
    """Rows in this range that do not fit in the table."""
    read_as: str = ""
    """The read statement that says what was detected and a run would not detect; empty where there is none."""
    total: int | None = None
    """How many rows the extract has, where it was read to its end."""

    def to_json(self) -> dict[str, Any]:
        """The documented shape of `mangler look --json`."""
        return {
            "extract": self.extract,
            "found_out": self.detected,
            "columns": [{"name": column.name, "type": str(column.type)} for column in self.columns],
            "rows": [
                {"row": number, "cells": [column[i] for column in self.cells]}
                for i, number in enumerate(self.numbers)
            ],
            "unfit": [{"row": row.row, "reason": row.reason} for row in self.unfit],
            "read_as": self.read_as or None,
            "rows_in_extract": self.total,
        }


def look_at(
    path: str,
    settings: ReadSettings,
    start: int = 1,
    rows: int | None = None,
    columns: ColumnSelector | None = None,
    where: Statement | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> View:
    """Rows of an extract from row `start` on, or from so many rows before its end where that is negative.

    `rows` is how many; where it is not said, 20, or from the end all that follow. `where` holds a condition: then
    only rows that meet it count.
    """
    near = start > 0 and start + (rows or ROWS) < 10_000 and where is None
    source = open_source(
        path, ReadRequest(settings, SMALL_PARTITION if near else PARTITION_SIZE, survey=True)
    )
    try:
        schema = source.schema
        chosen = (
            select(columns, schema, "look", matching_names).indices if columns else range(len(schema.columns))
        )
        view = View(
            source.name,
            dict(source.detected),
            tuple(schema.columns[i] for i in chosen),
            [[] for _ in chosen],
            read_as=read_statement(source.read_as) if source.layout_found else "",
        )
        reading = _Reading(source, progress)
        if where is not None:
            condition = condition_of(where, schema, "look")
            assert condition is not None
            wanted = rows or (-start if start < 0 else ROWS)
            _take_met(view, reading, list(chosen), condition, start, wanted)
        elif start < 0:
            partitions, first = reading.last(-start)
            _take(view, source, partitions, list(chosen), first, rows or -start)
        else:
            _take(view, source, reading.partitions(), list(chosen), start, rows or ROWS)
        if reading.ended:
            view.total = reading.rows
            if start > max(1, reading.rows) and where is None:
                has = "1 row" if reading.rows == 1 else f"{reading.rows:,} rows"
                raise extract_does_not_fit(
                    "no-such-row",
                    f"{source.name} has {has}, so none is row {start:,}",
                    "The last rows: --from -20",
                )
        return view
    finally:
        source.close()


class _Reading:
    """The partitions of a source, with the number of its rows once they are all read."""

    def __init__(self, source: Source, progress: Callable[[int, int], None] | None) -> None:
        self.source, self._progress = source, progress
        self.rows = 0
        self.ended = False

    def partitions(self) -> Iterator[Partition]:
        """All of them; their rows are parsed by whoever wants them."""
        for partition in read_partitions(self.source, lambda partition: partition, progress=self._progress):
            self.rows = partition.first_row + partition.row_count - 1
            yield partition
        self.ended = True

    def last(self, wanted: int) -> tuple[list[Partition], int]:
        """The last partitions, with at least so many rows together, and the first row that is wanted."""
        kept: deque[Partition] = deque()
        for partition in self.partitions():
            kept.append(partition)
            while self.rows - (kept[0].first_row + kept[0].row_count - 1) >= wanted:
                kept.popleft()
        return list(kept), max(1, self.rows - wanted + 1)


def _take_met(
    view: View,
    reading: _Reading,
    chosen: list[int],
    condition: Condition,
    start: int,
    wanted: int,
) -> None:
    """Fills the view with rows that meet a condition, from row `start` on, or the last ones."""
    tally = Tally()
    kept: deque[tuple[int, list[Cell]]] = deque(maxlen=-start if start < 0 else None)
    for partition in reading.partitions():
        parsed = reading.source.read(partition)
        view.unfit += parsed.unfit_rows(max(start, 1))
        batch, met = condition.test(parsed.batch, tally)
        if tally.failed:
            row, line, reason = tally.failures[0]
            raise extract_does_not_fit(
                "expression-fails",
                f"{reading.source.name}, row {row:,}, line {line:,}: {reason}",
                "",
                condition.bound.span,
            )
        places = [i for i in met.nonzero()[0].tolist() if start < 0 or batch.rows[i] >= start]
        if start > 0:
            places = places[: wanted - len(kept)]
        columns = [batch.columns[index] for index in chosen]
        kept += [
            (int(batch.rows[i]), [cells_of(column.slice(i, 1))[0] for column in columns]) for i in places
        ]
        if start > 0 and len(kept) == wanted and not partition.is_last:
            break
    for number, cells in list(kept)[:wanted]:
        view.numbers.append(number)
        for column, cell in zip(view.cells, cells, strict=True):
            column.append(cell)


def _take(
    view: View,
    source: Source,
    partitions: Iterator[Partition] | list[Partition],
    chosen: list[int],
    first: int,
    count: int,
) -> None:
    """Fills the view with so many rows from the first on; unfit rows count among them."""
    last = first + count - 1
    for partition in partitions:
        if partition.first_row + partition.row_count <= first:
            continue
        parsed = source.read(partition)
        inside = (parsed.batch.rows >= first) & (parsed.batch.rows <= last)
        positions = inside.nonzero()[0]
        if len(positions):
            start, length = int(positions[0]), len(positions)
            view.numbers += parsed.batch.rows[start : start + length].tolist()
            for cells, index in zip(view.cells, chosen, strict=True):
                cells += cells_of(parsed.batch.columns[index].slice(start, length))
        view.unfit += parsed.unfit_rows(first, last)
        if partition.first_row + partition.row_count > last and not partition.is_last:
            return
