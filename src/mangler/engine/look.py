"""Reads some rows of a table to be looked at, and no more of the file than that takes."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

from mangler.formats.delimited.blocks import BLOCK_SIZE, Block
from mangler.formats.delimited.extract import Extract, open_extract
from mangler.formats.delimited.parse import UnfitRow
from mangler.language.columns import ColumnSelector
from mangler.language.mistake import extract_does_not_fit
from mangler.language.statement import Statement
from mangler.steps.columnwise import matching_names
from mangler.steps.conditions import Condition, condition_of
from mangler.table.schema import Column, Schema
from mangler.table.select import select
from mangler.table.settings import ReadSettings
from mangler.table.tally import Tally

SMALL_BLOCK = 1 << 17
"""Bytes of a block where only the first rows are wanted."""
ROWS = 20


@dataclass
class View:
    """Rows `numbers` of an extract, `cells` a column at a time; and what stands between them that is no row."""

    extract: str
    found_out: dict[str, str]
    columns: tuple[Column, ...]
    cells: list[list[Any]]
    numbers: list[int] = field(default_factory=list)
    unfit: list[UnfitRow] = field(default_factory=list)
    """Rows in this range that have no place in the table."""
    total: int | None = None
    """How many rows the extract has, where it was read to its end."""

    def to_json(self) -> dict[str, Any]:
        """The documented shape of `mangler look --json`."""
        return {
            "extract": self.extract,
            "found_out": self.found_out,
            "columns": [{"name": column.name, "type": str(column.type)} for column in self.columns],
            "rows": [
                {"row": number, "cells": [column[i] for column in self.cells]}
                for i, number in enumerate(self.numbers)
            ],
            "unfit": [{"row": row.row, "reason": row.reason} for row in self.unfit],
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
    extract = open_extract(path, settings, SMALL_BLOCK if near else BLOCK_SIZE)
    try:
        schema = Schema.of_text(extract.names)
        chosen = (
            select(columns, schema, "look", matching_names).indices if columns else range(len(schema.columns))
        )
        view = View(
            extract.name,
            extract.found_out,
            tuple(schema.columns[i] for i in chosen),
            [[] for _ in chosen],
        )
        counted = _Counted(extract, progress)
        if where is not None:
            condition = condition_of(where, schema, "look")
            assert condition is not None
            _take_met(
                view,
                extract,
                counted,
                list(chosen),
                condition,
                start,
                rows or (-start if start < 0 else ROWS),
            )
        elif start < 0:
            blocks, first = counted.last(-start)
            _take(view, extract, blocks, list(chosen), first, rows or -start)
        else:
            _take(view, extract, counted.blocks(), list(chosen), start, rows or ROWS)
        if counted.ended:
            view.total = counted.rows
            if start > max(1, counted.rows) and where is None:
                has = "1 row" if counted.rows == 1 else f"{counted.rows:,} rows"
                raise extract_does_not_fit(
                    f"{extract.name} has {has}, so none is row {start:,}",
                    "The last rows: --from -20",
                )
        return view
    finally:
        extract.close()


class _Counted:
    """The blocks of an extract, with the number of its rows once they are all read."""

    def __init__(self, extract: Extract, progress: Callable[[int, int], None] | None) -> None:
        self._extract, self._progress = extract, progress
        self.rows = 0
        self.ended = False

    def blocks(self) -> Iterator[Block]:
        for block in self._extract.blocks():
            self.rows = block.first_row + block.count - 1
            if self._progress:
                self._progress(self.rows, block.bytes_read)
            yield block
        self.ended = True

    def last(self, wanted: int) -> tuple[list[Block], int]:
        """The last blocks, with at least so many rows together, and the first row that is wanted."""
        kept: deque[Block] = deque()
        for block in self.blocks():
            kept.append(block)
            while self.rows - (kept[0].first_row + kept[0].count - 1) >= wanted:
                kept.popleft()
        return list(kept), max(1, self.rows - wanted + 1)


def _take_met(
    view: View,
    extract: Extract,
    counted: _Counted,
    chosen: list[int],
    condition: Condition,
    start: int,
    wanted: int,
) -> None:
    """Fills the view with rows that meet a condition, from row `start` on, or the last ones."""
    tally = Tally()
    kept: deque[tuple[int, list[Any]]] = deque(maxlen=-start if start < 0 else None)
    for block in counted.blocks():
        parsed = extract.parser.parse(block)
        view.unfit += parsed.unfit_rows(max(start, 1))
        batch, met = condition.test(parsed.batch, tally)
        if tally.failed:
            row, line, reason = tally.failures[0]
            raise extract_does_not_fit(
                f"{extract.name}, row {row:,}, line {line:,}: {reason}", "", condition.bound.place
            )
        places = [i for i in met.nonzero()[0].tolist() if start < 0 or batch.rows[i] >= start]
        if start > 0:
            places = places[: wanted - len(kept)]
        columns = [batch.columns[index] for index in chosen]
        kept += [(int(batch.rows[i]), [column[i].as_py() for column in columns]) for i in places]
        if start > 0 and len(kept) == wanted and not block.last:
            break
    for number, cells in list(kept)[:wanted]:
        view.numbers.append(number)
        for column, cell in zip(view.cells, cells, strict=True):
            column.append(cell)


def _take(
    view: View,
    extract: Extract,
    blocks: Iterator[Block] | list[Block],
    chosen: list[int],
    first: int,
    count: int,
) -> None:
    """Fills the view with so many rows from the first on; those that are unfit count among them."""
    last = first + count - 1
    for block in blocks:
        if block.first_row + block.count <= first:
            continue
        parsed = extract.parser.parse(block)
        inside = (parsed.batch.rows >= first) & (parsed.batch.rows <= last)
        positions = inside.nonzero()[0]
        if len(positions):
            start, length = int(positions[0]), len(positions)
            view.numbers += parsed.batch.rows[start : start + length].tolist()
            for cells, index in zip(view.cells, chosen, strict=True):
                cells += parsed.batch.columns[index].slice(start, length).to_pylist()
        view.unfit += parsed.unfit_rows(first, last)
        if block.first_row + block.count > last and not block.last:
            return
