"""What an extract is like, in few words a column: enough to tell next week whether another one is like it."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import field
from pathlib import Path
from typing import Any

from mangler.formats.location import PART_MARK, split_address
from mangler.formats.registry import is_known_ending, plain_path
from mangler.late_dataclass import dataclass

MOST_VALUES = 60
"""A column with more different values is not one of few."""
DELIMITED = "delimited text"
"""The format of extracts of which an older run noted none."""
MOST_FORMS = 12
"""Forms of a column that are known; cells of more of them have no form in common."""
OTHER_FORMS = "…"
"""Stands for the forms beyond those."""


@dataclass
class Forms:
    """How the cells of the first rows are written: `cells` by form, each with the least of its texts as an example.

    A form is that of a date, or what is left of a text when each run of digits is a 9 and each run of letters an a.
    """

    cells: Counter[str] = field(default_factory=Counter)
    examples: dict[str, str] = field(default_factory=dict)
    cases: Counter[str] = field(default_factory=Counter)
    """Cells with letters by letter case: lower, upper, title, mixed."""
    sizes: Counter[int] = field(default_factory=Counter)
    """Of what is plainly a number, cells by the half octave of their size; 0 by itself."""

    def add(self, other: Forms) -> None:
        self.cells += other.cells
        self.cases += other.cases
        self.sizes += other.sizes
        for form, text in other.examples.items():
            self.examples[form] = min(self.examples.get(form, text), text, key=_by_length)

    def cut(self) -> Forms:
        """No more forms than are kept; where there are more, none says anything."""
        if len(self.cells) <= MOST_FORMS:
            return self
        return Forms(Counter({OTHER_FORMS: self.cells.total()}), {}, self.cases, self.sizes)

    def to_json(self) -> dict[str, Any]:
        return {
            "cells": dict(self.cells),
            "examples": self.examples,
            "cases": dict(self.cases),
            "sizes": {str(size): cells for size, cells in self.sizes.items()},
        }

    @classmethod
    def of_json(cls, message: dict[str, Any]) -> Forms:
        return cls(
            Counter(message["cells"]),
            message["examples"],
            Counter(message["cases"]),
            Counter({int(size): cells for size, cells in message["sizes"].items()}),
        )


def _by_length(text: str) -> tuple[int, str]:
    return len(text), text


@dataclass
class ColumnPrint:
    """A column's counts. White space around a cell does not count."""

    name: str
    cells: int = 0
    """Those that were looked at: all, or of a large extract a part, where the values are more than a few."""
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
    spaced: int | None = None
    """Cells with white space at an end; None where an older run did not count them."""
    forms: Forms | None = None
    """None where an older run did not take them."""
    repeats: int | None = None
    """Cells of the first rows whose value is that of an earlier one; None where it was not counted."""
    total: float | None = None
    """The sum of what is plainly a number; None where most cells are none, or an older run did not add up."""
    type: str = "text"
    """The one that the file gives the column."""
    passed_over: int = 0
    """Cells beside `cells` that were not looked at."""

    @property
    def filled(self) -> int:
        return self.cells - self.nulls

    def add(self, other: ColumnPrint) -> None:
        """Adds what was counted of later cells."""
        self.cells += other.cells
        self.passed_over += other.passed_over
        self.nulls += other.nulls
        self.written += other.written
        if other.spaced is not None:
            self.spaced = (self.spaced or 0) + other.spaced
        if other.forms is not None:
            self.forms = self.forms or Forms()
            self.forms.add(other.forms)
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
            "spaced": self.spaced,
            "forms": self.forms.to_json() if self.forms is not None else None,
            "repeats": self.repeats,
            "total": self.total,
            "type": self.type,
            "passed_over": self.passed_over,
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
            message.get("spaced"),
            Forms.of_json(message["forms"]) if message.get("forms") else None,
            message.get("repeats"),
            message.get("total"),
            message.get("type", "text"),
            message.get("passed_over", 0),
        )


@dataclass
class Fingerprint:
    """An extract's, from the rows that have a place in the table."""

    delimiter: str
    encoding: str
    columns: list[ColumnPrint]
    rows: int = 0
    quoting: str = ""
    """Whether every field is in quotes; empty where it is not known."""
    follows: list[tuple[str, str, int]] = field(default_factory=list)
    """Columns of few values of which the second follows from the first, in the first rows, and how many rows are
    exceptions."""
    format: str = DELIMITED
    """Of the file."""

    def to_json(self) -> dict[str, Any]:
        return {
            "format": self.format,
            "delimiter": self.delimiter,
            "encoding": self.encoding,
            "quoting": self.quoting,
            "rows": self.rows,
            "follows": [list(one) for one in self.follows],
            "columns": [column.to_json() for column in self.columns],
        }

    @classmethod
    def of_json(cls, message: dict[str, Any]) -> Fingerprint:
        columns = [ColumnPrint.of_json(column) for column in message["columns"]]
        follows = [(of, other, exceptions) for of, other, exceptions in message.get("follows", [])]
        quoting = message.get("quoting", "")
        read = message["delimiter"], message["encoding"]
        return cls(*read, columns, message["rows"], quoting, follows, message.get("format", DELIMITED))


def series_of(extract: str) -> str:
    """The extracts that one is compared with: those of the same name except for its digits and the format's ending."""
    file, part = split_address(extract)
    name = plain_path(Path(file.replace("\\", "/").rpartition("/")[2] or file))
    stem = name.stem if is_known_ending(name.suffix) else name.name
    return re.sub(r"\d+", "#", f"{stem}{PART_MARK}{part}" if part else stem)
