"""The names of months and days, by which forms of dates read texts in languages other than English."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.patterns import escape
from mangler.kernels.values.convert import Integers
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class DateNames:
    """Each spelling of a month with its number, and the spellings of the days of the week; all in lower case."""

    months: tuple[tuple[str, int], ...]
    weekdays: tuple[str, ...]

    @classmethod
    def of(cls, months: Mapping[str, int], weekdays: Sequence[str]) -> DateNames:
        """Of spellings as they come: a point at the end may be left out."""
        spelled = {_folded(name): number for name, number in months.items()}
        return cls(tuple(sorted(spelled.items())), tuple(sorted({_folded(name) for name in weekdays})))

    @property
    def month_pattern(self) -> str:
        return f"(?P<b>(?i:{_any_of(name for name, _ in self.months)}))"

    @property
    def weekday_pattern(self) -> str:
        return f"(?i:{_any_of(self.weekdays)})"

    def months_of(self, names: ColumnArray) -> Integers:
        """The number of each month; 0 for none."""
        known = pa.array([name for name, _ in self.months])
        numbers = np.array([number for _, number in self.months] + [0])
        bare = pc.utf8_rtrim(pc.utf8_lower(names), characters=".")
        found: Integers = numbers[np.asarray(pc.index_in(bare, value_set=known).fill_null(-1))]
        return found


def _folded(name: str) -> str:
    lower: str = pc.utf8_lower(pa.scalar(name)).as_py()
    return lower.rstrip(".")


def _any_of(names: object) -> str:
    return "|".join(f"{escape(name)}\\.?" for name in sorted(names, key=len, reverse=True))  # type: ignore[call-overload]
