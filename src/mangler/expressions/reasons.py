"""Why rows fail: one reason for all, or one for each row, made for many rows at once where there are many."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol, TypeAlias, runtime_checkable

import numpy as np
import numpy.typing as npt

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.values.format_values import format_values
from mangler.late_dataclass import dataclass

Positions: TypeAlias = npt.NDArray[np.intp]
"""Places in a batch, from 0."""
Reasons: TypeAlias = tuple[list[str], npt.NDArray[np.int64]]
"""Different reasons, and for each place the number of its own."""


@runtime_checkable
class ForMany(Protocol):
    """A reason that can be made for many rows at once."""

    def __call__(self, index: int, /) -> str: ...

    def for_many(self, positions: Positions) -> Reasons: ...


Reason: TypeAlias = str | Callable[[int], str]


@dataclass(frozen=True)
class ByCell:
    """Names the cell of a column that is at fault; `form` makes a sentence of its text."""

    array: ColumnArray
    form: Callable[[str], str]

    def __call__(self, index: int) -> str:
        return self.form(format_values(self.array.slice(index, 1))[0].as_py())

    def for_many(self, positions: Positions) -> Reasons:
        """Each different cell makes one reason."""
        encoded = as_dictionary(format_values(self.array.take(from_numpy(positions))))
        return [self.form(text) for text in encoded.dictionary.to_pylist()], np.asarray(
            encoded.indices
        ).astype(np.int64)


@dataclass(frozen=True)
class ByDistinct:
    """Reasons of distinct values, for the rows that have them: row i has the value `codes[i]`."""

    reason: Reason
    codes: npt.NDArray[Any]

    def __call__(self, index: int) -> str:
        return reason_of(self.reason, int(self.codes[index]))

    def for_many(self, positions: Positions) -> Reasons:
        values, numbers = np.unique(self.codes[positions], return_inverse=True)
        reasons, codes = reasons_of(self.reason, values)
        return reasons, codes[numbers]


@dataclass(frozen=True)
class Named:
    """A reason with the name of its column in front."""

    name: str
    reason: Reason

    def __call__(self, index: int) -> str:
        return f"{self.name}: {reason_of(self.reason, index)}"

    def for_many(self, positions: Positions) -> Reasons:
        reasons, codes = reasons_of(self.reason, positions)
        return [f"{self.name}: {reason}" for reason in reasons], codes


def reason_of(reason: Reason, index: int) -> str:
    return reason if isinstance(reason, str) else reason(index)


def reasons_of(reason: Reason, positions: Positions) -> Reasons:
    """The reasons of many rows."""
    if isinstance(reason, str):
        return [reason], np.zeros(len(positions), np.int64)
    if isinstance(reason, ForMany):
        return reason.for_many(positions)
    return [reason(index) for index in positions.tolist()], np.arange(len(positions))
