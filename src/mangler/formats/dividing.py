"""Extracts divided into pieces, each of which any process can read that can open the file."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Any, Protocol, TypeVar

from mangler.formats.partition import Partition
from mangler.late_dataclass import dataclass

Item = TypeVar("Item")
Outcome = TypeVar("Outcome")


class MapOrdered(Protocol):
    """Calls a function for each item, anywhere, and gives the outcomes in their order. All can be pickled."""

    def __call__(self, function: Callable[[Any], Any], items: Iterable[Any], /) -> Iterator[Any]: ...


SMALLEST, LARGEST = 4 << 20, 64 << 20
"""Bytes of a piece."""
PER_THREAD = 4
"""Pieces for each thread, where the extract is large enough: so all end at about the same time."""
FEW = 4 << 20
"""Bytes of an extract that is not worth dividing."""


def is_small(total: int) -> bool:
    """Whether an extract of so many bytes is read faster alone."""
    return total < FEW


def size_of_pieces(total: int, threads: int) -> int:
    """About how many bytes a piece of an extract has that is worked on by so many threads."""
    return max(SMALLEST, min(LARGEST, total // (PER_THREAD * threads)))


@dataclass(frozen=True)
class Helpers:
    """Those who help to open an extract: for formats whose columns are known only when all rows were read."""

    everywhere: MapOrdered
    threads: int
    helps_with_small: bool = False

    def piece_size(self, total: int) -> int | None:
        """About how many bytes of the extract each of them takes; None where it is read faster alone."""
        return None if is_small(total) and not self.helps_with_small else size_of_pieces(total, self.threads)


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

    @property
    def known(self) -> Any:
        """What others need not find out who open the extract too, for their request; it can be pickled."""
        ...

    def pieces(self, size: int, everywhere: MapOrdered) -> Sequence[Piece] | str:
        """Pieces of about so many bytes, which are all of the extract; or why it cannot be divided."""
        ...

    def most_partitions(self, size: int) -> int:
        """How many partitions a piece of about so many bytes has at most."""
        ...

    def partitions(self, piece: Piece) -> Iterator[Partition]:
        """The rows of a piece. They are numbered by their place in the extract, the partitions from 0."""
        ...
