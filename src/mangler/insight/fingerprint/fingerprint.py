"""What an extract is like, in few words a column: enough to tell next week whether another one is like it."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass, field
from typing import Any

MOST_VALUES = 60
"""A column with more different values is not one of few."""


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
    shortest: int | None = None
    longest: int | None = None
    """Characters."""

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
        for name, choose in (("least", min), ("most", max), ("shortest", min), ("longest", max)):
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
            "shortest": self.shortest,
            "longest": self.longest,
        }

    @classmethod
    def of_json(cls, message: dict[str, Any]) -> ColumnPrint:
        parts = {
            mark: Counter({int(n): cells for n, cells in counts.items()})
            for mark, counts in message["parts"].items()
        }
        return cls(
            message["name"],
            message["cells"],
            message["nulls"],
            message["values"],
            Counter(message["written"]),
            parts,
            message["least"],
            message["most"],
            message.get("shortest"),
            message.get("longest"),
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
    def of_json(cls, message: dict[str, Any]) -> Fingerprint:
        columns = [ColumnPrint.of_json(column) for column in message["columns"]]
        return cls(message["delimiter"], message["encoding"], columns, message["rows"])


def series_of(extract: str) -> str:
    """The extracts that one is compared with: those of the same name except for its digits."""
    return re.sub(r"\d+", "#", extract.replace("\\", "/").rpartition("/")[2])
