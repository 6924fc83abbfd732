"""What an extract is like, in few words a column: enough to tell next week whether another one is like it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.insight.facts import Counts, distinct_in
from mangler.insight.shape_kinds import ShapeKind, date_forms_of, kind_of
from mangler.kernels.mark_counts import marks_per_cell
from mangler.kernels.patterns import matches
from mangler.kernels.shapes import shapes
from mangler.kernels.text_view import TextArray, view
from mangler.kernels.white_space import trim
from mangler.table.batch import Batch

MARKS = (";", ",", "|", "/")
MOST_VALUES = 60
"""A column with more different values is not one of few."""
LONGEST_VALUE = 60
MOST_PARTS = 200
PLAIN = r"^[+-]?[0-9]{1,15}(\.[0-9]+)?$"


@dataclass
class ColumnPrint:
    """A column's counts. White space around a cell does not count."""

    name: str
    cells: int = 0
    nulls: int = 0
    """Blank cells too."""
    values: dict[str, int] | None = field(default_factory=dict)
    """Every value with its cells; None where there are more than a few."""
    written: Counter[str] = field(default_factory=Counter)
    """How cells are written: kinds of shapes, and forms of dates."""
    parts: dict[str, Counter[int]] = field(default_factory=dict)
    """For each mark how many cells have so many parts; cells without it left out."""
    least: float | None = None
    most: float | None = None
    """Of what is plainly a number."""

    @property
    def filled(self) -> int:
        return self.cells - self.nulls

    def add(self, other: ColumnPrint) -> None:
        """Adds what was counted of later cells."""
        self.cells += other.cells
        self.nulls += other.nulls
        self.written += other.written
        for mark, counts in other.parts.items():
            self.parts[mark] = self.parts.get(mark, Counter()) + counts
        if self.values is not None and other.values is not None:
            for value, cells in other.values.items():
                self.values[value] = self.values.get(value, 0) + cells
        if other.values is None or (self.values is not None and len(self.values) > MOST_VALUES):
            self.values = None
        for name, choose in (("least", min), ("most", max)):
            known = [one for one in (getattr(self, name), getattr(other, name)) if one is not None]
            setattr(self, name, choose(known) if known else None)

    def to_json(self) -> dict[str, Any]:
        return {
            "name": self.name,
            "cells": self.cells,
            "nulls": self.nulls,
            "values": self.values,
            "written": dict(self.written),
            "parts": {
                mark: {str(n): cells for n, cells in counts.items()} for mark, counts in self.parts.items()
            },
            "least": self.least,
            "most": self.most,
        }

    @classmethod
    def of_json(cls, told: dict[str, Any]) -> ColumnPrint:
        parts = {
            mark: Counter({int(n): cells for n, cells in counts.items()})
            for mark, counts in told["parts"].items()
        }
        return cls(
            told["name"],
            told["cells"],
            told["nulls"],
            told["values"],
            Counter(told["written"]),
            parts,
            told["least"],
            told["most"],
        )


@dataclass
class Fingerprint:
    """An extract's, from all its rows that have a place in the table."""

    delimiter: str
    encoding: str
    columns: list[ColumnPrint]
    rows: int = 0

    def to_json(self) -> dict[str, Any]:
        columns = [column.to_json() for column in self.columns]
        return {"delimiter": self.delimiter, "encoding": self.encoding, "rows": self.rows, "columns": columns}

    @classmethod
    def of_json(cls, told: dict[str, Any]) -> Fingerprint:
        columns = [ColumnPrint.of_json(column) for column in told["columns"]]
        return cls(told["delimiter"], told["encoding"], columns, told["rows"])


class FingerprintTaker:
    """Looks at batches as they are read, from several threads at once, and puts what it saw together in their order."""

    def __init__(self) -> None:
        self.fingerprint: Fingerprint | None = None

    def begin(self, names: Sequence[str], delimiter: str, encoding: str) -> None:
        self.fingerprint = Fingerprint(delimiter, encoding, [ColumnPrint(name) for name in names])

    def look(self, batch: Batch) -> list[ColumnPrint]:
        return [print_of(column) for column in batch.columns]

    def note(self, seen: list[ColumnPrint]) -> None:
        assert self.fingerprint is not None
        self.fingerprint.rows += seen[0].cells if seen else 0
        for column, more in zip(self.fingerprint.columns, seen, strict=True):
            column.add(more)


def print_of(column: Any) -> ColumnPrint:
    """A column's counts, of a batch."""
    values, counts, nulls = distinct_in(column)
    found = ColumnPrint("", int(counts.sum()) + nulls, nulls)
    if not len(values):
        return found
    values = trim(values).array
    blank = view(values).lengths == 0
    if blank.any():
        found.nulls += int(counts[blank].sum())
        values, counts = values.filter(pa.array(~blank)), counts[~blank]
    few = len(values) <= 4 * MOST_VALUES  # trimmed, some may be equal
    found.values = _few(values, counts) if few else None
    found.written = _written(values, counts)
    for mark in MARKS:
        times = marks_per_cell(view(values), ord(mark))
        if times is not None:
            each = np.bincount(np.minimum(times + 1, MOST_PARTS), counts).astype(np.int64)
            found.parts[mark] = Counter({int(n): int(each[n]) for n in np.flatnonzero(each) if n > 1})
    if found.written[ShapeKind.NUMBER] * 2 > int(counts.sum()):
        plain = values.filter(pa.array(matches(values, PLAIN)))
        if len(plain):
            least_and_most = pc.min_max(pc.cast(plain, pa.float64())).as_py()
            found.least, found.most = least_and_most["min"], least_and_most["max"]
    return found


def _few(values: TextArray, counts: Counts) -> dict[str, int] | None:
    known: dict[str, int] = {}
    for value, cells in zip(values.to_pylist(), counts.tolist(), strict=True):
        if len(value) > LONGEST_VALUE:
            return None
        known[value] = known.get(value, 0) + cells
    return known if len(known) <= MOST_VALUES else None


def _written(values: TextArray, counts: Counts) -> Counter[str]:
    encoded = shapes(values).dictionary_encode()
    each = np.bincount(np.asarray(encoded.indices), counts, len(encoded.dictionary)).astype(np.int64)
    written: Counter[str] = Counter()
    for shape, cells in zip(encoded.dictionary.to_pylist(), each.tolist(), strict=True):
        forms = date_forms_of(shape)
        written[forms[0] if forms else str(kind_of(shape))] += cells
    return written


def series_of(extract: str) -> str:
    """The extracts that one is held against: those of the same name but for its digits."""
    return re.sub(r"\d+", "#", extract.replace("\\", "/").rpartition("/")[2])
