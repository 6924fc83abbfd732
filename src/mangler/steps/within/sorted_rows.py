"""Rows that are group by group, in pieces, and what a call gives for them."""

from __future__ import annotations

from typing import Protocol

from mangler.expressions.aggregates.aggregate import Columns
from mangler.expressions.value import Failure
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.segments import Segments
from mangler.kernels.text.text_view import Flags
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class SortedRows:
    """A piece of rows, group by group, each group in its order.

    `goes_on` says whether the first rows belong to the group that the rows before ended with, `peers` which rows
    differ from the row before in what they are sorted by, or start a group.
    """

    segments: Segments
    goes_on: bool
    peers: Flags
    arguments: tuple[Columns, ...]
    """For each call the values of its arguments."""


@dataclass(frozen=True)
class Result:
    """A value for each row, and the rows that fail."""

    array: ColumnArray
    failures: tuple[Failure, ...] = ()


class Runner(Protocol):
    """Gives the values of rows from those so far, piece by piece."""

    def take(self, rows: SortedRows, arguments: Columns) -> Result: ...
