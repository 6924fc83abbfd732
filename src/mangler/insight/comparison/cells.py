"""How the cells of rows that belong together differ, column by column."""

from __future__ import annotations

from dataclasses import field
from enum import StrEnum
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow.compute as pc

from mangler.kernels.arrow import from_numpy
from mangler.kernels.keys.keys import folded, keys_of
from mangler.kernels.text.text_view import TextArray, view
from mangler.kernels.text.white_space import squeeze
from mangler.late_dataclass import dataclass

MOST_KEPT = 1000
"""Different changes of a column that are kept."""
NUMBER = r"^[+-]?[0-9]+(\.[0-9]+)?$"
Flags = npt.NDArray[np.bool_]


class Kind(StrEnum):
    """What makes two cells differ. The first that fits counts."""

    NULL_OR_EMPTY = "null or empty"
    """One is null, the other an empty text or white space alone."""
    NULL = "null or value"
    """One is null, the other has a value."""
    WHITE_SPACE = "white space"
    LETTER_CASE = "letter case"
    """Besides it perhaps white space."""
    NUMBER_SPELLING = "number spelling"
    """The same number, as 1.50 and 1.5."""
    OTHER = "other"


@dataclass
class Change:
    """Cells that changed alike: the rows of the first of them in both tables, from 1, and how many there are."""

    before: str | None
    after: str | None
    kind: Kind
    row: int
    row_now: int
    cells: int
    key: tuple[str | None, ...] = ()


@dataclass
class ColumnDifferences:
    """Those of one column that both tables have."""

    name: str
    kinds: dict[Kind, int] = field(default_factory=dict)
    changes: dict[tuple[str | None, str | None], Change] = field(default_factory=dict)

    @property
    def cells(self) -> int:
        return sum(self.kinds.values())

    def note(
        self, before: TextArray, after: TextArray, rows: Any, rows_now: Any, keys: list[TextArray]
    ) -> None:
        """Adds cells that differ, each with its row in both tables and the cells of its key."""
        kinds = kinds_of(before, after)
        for number, kind in enumerate(Kind):
            count = int(np.count_nonzero(kinds == number))
            if count:
                self.kinds[kind] = self.kinds.get(kind, 0) + count
        found = keys_of([before, after], len(before))
        times = np.bincount(found.codes, minlength=found.count)
        names = list(Kind)
        for place, cells in zip(found.first.tolist(), times.tolist(), strict=True):
            pair = before[place].as_py(), after[place].as_py()
            known = self.changes.get(pair)
            if known is not None:
                known.cells += cells
            elif len(self.changes) < MOST_KEPT:
                key = tuple(column[place].as_py() for column in keys)
                row, row_now = int(rows[place]), int(rows_now[place])
                self.changes[pair] = Change(*pair, names[kinds[place]], row, row_now, cells, key)

    def most_frequent(self, most: int) -> list[Change]:
        return sorted(self.changes.values(), key=lambda one: (-one.cells, one.row))[:most]

    def to_json(self, most: int) -> dict[str, Any]:
        return {
            "column": self.name,
            "cells": self.cells,
            "kinds": {str(kind): cells for kind, cells in self.kinds.items()},
            "changes": [
                {
                    "before": one.before,
                    "after": one.after,
                    "kind": str(one.kind),
                    "cells": one.cells,
                    "row_before": one.row,
                    "row_after": one.row_now,
                }
                for one in self.most_frequent(most)
            ],
        }


def differing(before: TextArray, after: TextArray) -> Flags:
    """Which cells differ; null is a value of its own."""
    equal = pc.fill_null(pc.equal(before, after), False)
    both_null = pc.and_(before.is_null(), after.is_null())
    return ~np.asarray(pc.or_(equal, both_null))


def kinds_of(before: TextArray, after: TextArray) -> npt.NDArray[np.int8]:
    """The place of each pair's kind among the kinds. All pairs differ."""
    names = list(Kind)
    out = np.full(len(before), names.index(Kind.OTHER), np.int8)
    here, there = (squeeze(text, True, True, True).array for text in (before, after))
    missing = np.asarray(before.is_null()) | np.asarray(after.is_null())
    blank = (view(here).lengths == 0) & (view(there).lengths == 0)
    alike = ~missing & ~differing(here, there)
    small = ~missing & ~differing(folded(here, True), folded(there, True))
    out[small] = names.index(Kind.LETTER_CASE)
    out[alike] = names.index(Kind.WHITE_SPACE)
    out[missing] = names.index(Kind.NULL)
    out[missing & blank] = names.index(Kind.NULL_OR_EMPTY)
    left = np.flatnonzero(out == names.index(Kind.OTHER))
    numbers = _same_number(here.take(from_numpy(left)), there.take(from_numpy(left)))
    out[left[numbers]] = names.index(Kind.NUMBER_SPELLING)
    return out


def _same_number(one: TextArray, other: TextArray) -> Flags:
    """Which are the same number, digit for digit, without zeros that add nothing."""
    both = np.asarray(pc.and_(pc.match_substring_regex(one, NUMBER), pc.match_substring_regex(other, NUMBER)))
    return both & ~differing(_plain(one), _plain(other))


def _plain(numbers: TextArray) -> TextArray:
    bare = pc.replace_substring_regex(numbers, r"^\+?(-?)0*([0-9])", r"\1\2")
    bare = pc.replace_substring_regex(bare, r"(\.[0-9]*?)0+$", r"\1")
    bare = pc.replace_substring_regex(bare, r"\.$", "")
    return pc.replace_substring_regex(bare, r"^-0$", "0")
