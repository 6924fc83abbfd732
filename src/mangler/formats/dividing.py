"""Extracts divided into pieces, each of which any process can read that can open the file."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar

from mangler.formats.partition import Partition

Item = TypeVar("Item")
Outcome = TypeVar("Outcome")


class MapOrdered(Protocol):
    """Calls a function for each item, anywhere, and gives the outcomes in their order. All can be pickled."""

    def __call__(self, function: Callable[[Any], Any], items: Iterable[Any], /) -> Iterator[Any]: ...


@dataclass(frozen=True)
class Piece:
    """A run of consecutive rows. `start` and `end` are what the format counts in: bytes, row groups."""

    index: int
    start: int
    end: int
    first_row: int
    """The number of its first row in the extract, from 1."""
    first_line: int = 0
    """The physical line that it starts on; 0 for formats without lines."""
    is_last: bool = False


class Division(Protocol):
    """How an opened extract is divided."""

    def pieces(self, size: int, everywhere: MapOrdered) -> Sequence[Piece] | str:
        """Pieces of about so many bytes, which are all of the extract; or why it cannot be divided."""
        ...

    def most_partitions(self, size: int) -> int:
        """How many partitions a piece of about so many bytes has at most."""
        ...

    def partitions(self, piece: Piece) -> Iterator[Partition]:
        """The rows of a piece. They are numbered by their place in the extract, the partitions from 0."""
        ...
