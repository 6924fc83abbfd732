"""Merged areas of a sheet, with the value in each of their cells."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, TypeAlias

Area: TypeAlias = tuple[int, int, int, int]
"""First row, first column, last row, last column, from 0."""
NumberedRow: TypeAlias = tuple[int, Sequence[Any]]
"""The number of a row in its sheet, from 1, and its cells."""


def with_merged(rows: Iterator[NumberedRow], areas: Sequence[Area]) -> Iterator[NumberedRow]:
    """The rows, with the value of each merged area in all of its cells, also below the last row that holds any."""
    waiting = sorted(areas, reverse=True)
    active: list[tuple[Area, Any]] = []
    last = max((area[2] for area in areas), default=-1) + 1
    number, width = 0, 0
    for number, row in rows:
        width = max(width, len(row))
        while waiting and waiting[-1][0] < number:
            area = waiting.pop()
            value = row[area[1]] if area[0] == number - 1 and 0 <= area[1] < len(row) else ""
            active.append((area, value))
        yield number, _filled(row, active) if active else row
        active = [(area, value) for area, value in active if area[2] >= number]
    for further in range(number + 1, last + 1):
        if not active:
            return
        yield further, _filled([""] * width, active)
        active = [(area, value) for area, value in active if area[2] >= further]


def _filled(row: Sequence[Any], active: Sequence[tuple[Area, Any]]) -> Sequence[Any]:
    cells = list(row)
    for (_, start, _, end), value in active:
        for index in range(max(start, 0), min(end, len(cells) - 1) + 1):
            cells[index] = value
    return cells
