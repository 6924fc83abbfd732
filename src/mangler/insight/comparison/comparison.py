"""What two tables have in common, and what not."""

from __future__ import annotations

from dataclasses import field
from typing import Any

from mangler.insight.comparison.cells import ColumnDifferences
from mangler.insight.comparison.keys import Key
from mangler.late_dataclass import dataclass

MOST_CHANGES = 100
"""Different changes of a column in JSON."""


@dataclass(frozen=True)
class LoneRow:
    """A row that only one of the tables has."""

    row: int
    cells: tuple[str | None, ...]


@dataclass
class Comparison:
    """What two tables have in common, and what not. Rows are numbered from 1."""

    before: str
    after: str
    rows_before: int = 0
    rows_after: int = 0
    columns: list[str] = field(default_factory=list)
    """Those that both have, and that are compared."""
    gone: list[str] = field(default_factory=list)
    come: list[str] = field(default_factory=list)
    is_reordered: bool = False
    """Whether the columns that both have are in another order."""
    retyped: list[tuple[str, str, str]] = field(default_factory=list)
    key: Key = ()
    """The columns by which rows belong together; empty: by their content and their order."""
    key_was_found: bool = False
    same: int = 0
    changed: int = 0
    moved: int | None = 0
    """Rows that are not in the order of the others; None: in so different an order that they were not counted."""
    rows_gone: int = 0
    rows_come: int = 0
    lone_before: list[LoneRow] = field(default_factory=list)
    lone_after: list[LoneRow] = field(default_factory=list)
    unfit: tuple[int, int] = (0, 0)
    """Rows of each file that do not fit its table, and are not compared."""
    differences: list[ColumnDifferences] = field(default_factory=list)

    @property
    def differ(self) -> bool:
        """Whether there is any difference. The types of columns make none, as long as their cells are alike."""
        columns = self.gone or self.come or self.is_reordered
        return bool(columns or self.changed or self.rows_gone or self.rows_come or self.moved != 0)

    def to_json(self) -> dict[str, Any]:
        """The documented shape of `mangler compare --json`."""
        return {
            "before": self.before,
            "after": self.after,
            "differ": self.differ,
            "key": list(self.key),
            "columns": {
                "compared": self.columns,
                "gone": self.gone,
                "come": self.come,
                "reordered": self.is_reordered,
                "types": [
                    {"column": name, "before": one, "after": other} for name, one, other in self.retyped
                ],
            },
            "rows": {
                "before": self.rows_before,
                "after": self.rows_after,
                "same": self.same,
                "changed": self.changed,
                "gone": self.rows_gone,
                "come": self.rows_come,
                "moved": self.moved,
                "unfit_before": self.unfit[0],
                "unfit_after": self.unfit[1],
            },
            "gone": [self._lone(one) for one in self.lone_before],
            "come": [self._lone(one) for one in self.lone_after],
            "differences": [one.to_json(MOST_CHANGES) for one in self.differences],
        }

    def _lone(self, one: LoneRow) -> dict[str, Any]:
        return {"row": one.row, "cells": dict(zip(self.columns, one.cells, strict=True))}
