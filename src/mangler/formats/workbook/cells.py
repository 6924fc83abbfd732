"""Values as cells of a workbook, and what is lost on the way."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import field
from datetime import date, datetime
from decimal import Decimal
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ArrowType, ColumnArray
from mangler.kernels.values.format_values import format_values
from mangler.kernels.values.plain import plain
from mangler.late_dataclass import dataclass

EXACT = 2**53
MOST_DIGITS = 15
"""Digits of a number that a cell keeps."""
EARLIEST = date(1900, 3, 1)
"""Before it the calendars of spreadsheet programs differ by a day."""
MOST_PLACES = 30


@dataclass
class Losses:
    """What could not be written as it is: by kind, how many cells of which columns."""

    names: Sequence[str]
    known: list[str] = field(default_factory=list)
    """What is lost in every cell, known before the first row."""
    counts: dict[str, dict[int, int]] = field(default_factory=dict)

    def note(self, what: str, index: int) -> None:
        column = self.counts.setdefault(what, {})
        column[index] = column.get(index, 0) + 1

    def warnings(self) -> list[str]:
        out = []
        for what, columns in self.counts.items():
            shown = ", ".join(
                f"{count:,} in {self.names[index]}" for index, count in sorted(columns.items())[:4]
            )
            out.append(f"{what}: {shown}")
        return out


LONG_NUMBER = f"numbers of more than {MOST_DIGITS} digits were written as texts, as a cell would round them"
NOT_FINITE = "infinite values and such that are no number became empty cells"
EARLY = (
    f"dates before {EARLIEST.isoformat()} were written as texts, as spreadsheet programs differ about them"
)
FINE = "parts of a second below a thousandth are not kept"


@dataclass(frozen=True)
class CellWriter:
    """Writes one column. `write(row, value)` gives another number than 0 where the cell has no place for it."""

    write: Callable[[int, Any], int]


def cell_values(column: ColumnArray) -> list[Any]:
    """The values of a column in Python's types; timestamps without their zone, what is not a number apart."""
    kind = column.type
    if pa.types.is_dictionary(kind):
        return cell_values(column.dictionary_decode())
    if pa.types.is_timestamp(kind):
        seen = plain(column).array
        return list(seen.to_pylist())
    if pa.types.is_time(kind) or pa.types.is_date(kind):
        target = pa.time64("us") if pa.types.is_time(kind) else pa.date32()
        return list(pc.cast(column, target, safe=False).to_pylist())
    if pa.types.is_floating(kind) and not pa.types.is_float64(kind):
        return [None if one is None else float(one) for one in format_values(column).to_pylist()]
    if pa.types.is_float64(kind) and not column.null_count:
        return list(np.asarray(column).tolist())
    if (
        pa.types.is_integer(kind)
        or pa.types.is_floating(kind)
        or pa.types.is_boolean(kind)
        or pa.types.is_decimal(kind)
    ):
        return list(column.to_pylist())
    return list(format_values(column).to_pylist())


def width_of(column: ColumnArray) -> int:
    """Characters of the longest cell."""
    return int(pc.max(pc.utf8_length(format_values(column))).as_py() or 0)


def writer_for(index: int, kind: ArrowType, sheet: Any, book: Any, losses: Losses) -> CellWriter:
    """What writes the cells of a column of this type."""
    if pa.types.is_dictionary(kind) or pa.types.is_run_end_encoded(kind):
        return writer_for(index, kind.value_type, sheet, book, losses)
    if pa.types.is_boolean(kind):
        return CellWriter(lambda row, value: sheet.write_boolean(row, index, value))
    if pa.types.is_integer(kind):
        return CellWriter(_integers(index, sheet, losses))
    if pa.types.is_floating(kind):
        return CellWriter(_floats(index, sheet, losses))
    if pa.types.is_decimal(kind):
        places = (
            f"0.{'0' * min(kind.scale, MOST_PLACES)}" if kind.scale and kind.precision != 38 else "General"
        )
        return CellWriter(_decimals(index, sheet, losses, book.add_format({"num_format": places})))
    if pa.types.is_date(kind):
        return CellWriter(_moments(index, sheet, losses, book.add_format({"num_format": "yyyy-mm-dd"})))
    if pa.types.is_timestamp(kind):
        if kind.tz is not None:
            losses.known.append(f"{losses.names[index]} loses its zone, {kind.tz}: a cell has none")
        return CellWriter(
            _moments(index, sheet, losses, book.add_format({"num_format": "yyyy-mm-dd hh:mm:ss"}))
        )
    if pa.types.is_time(kind):
        form = book.add_format({"num_format": "hh:mm:ss"})
        return CellWriter(lambda row, value: sheet.write_datetime(row, index, value, form))
    return CellWriter(lambda row, value: sheet.write_string(row, index, value))


def _integers(index: int, sheet: Any, losses: Losses) -> Callable[[int, Any], int]:
    def write(row: int, value: int) -> int:
        if -EXACT <= value <= EXACT:
            return int(sheet.write_number(row, index, value))
        losses.note(LONG_NUMBER, index)
        return int(sheet.write_string(row, index, str(value)))

    return write


def _floats(index: int, sheet: Any, losses: Losses) -> Callable[[int, Any], int]:
    def write(row: int, value: float) -> int:
        if value != value or value in (float("inf"), float("-inf")):
            losses.note(NOT_FINITE, index)
            return 0
        return int(sheet.write_number(row, index, value))

    return write


def _decimals(index: int, sheet: Any, losses: Losses, form: Any) -> Callable[[int, Any], int]:
    def write(row: int, value: Decimal) -> int:
        if len(value.normalize().as_tuple().digits) <= MOST_DIGITS:
            return int(sheet.write_number(row, index, float(value), form))
        losses.note(LONG_NUMBER, index)
        return int(sheet.write_string(row, index, format(value, "f")))

    return write


def _moments(index: int, sheet: Any, losses: Losses, form: Any) -> Callable[[int, Any], int]:
    def write(row: int, value: Any) -> int:
        day = value.date() if isinstance(value, datetime) else value
        if day < EARLIEST:
            losses.note(EARLY, index)
            return int(sheet.write_string(row, index, value.isoformat()))
        if isinstance(value, datetime) and value.microsecond % 1000:
            losses.note(FINE, index)
        return int(sheet.write_datetime(row, index, value, form))

    return write
