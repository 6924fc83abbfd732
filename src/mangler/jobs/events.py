"""What happens while extracts are cleaned, as a stream of events for whoever shows it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TypeAlias

from mangler.formats.location import split_address
from mangler.jobs.outcome import Outcome
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Started:
    """The cleaning of an extract has begun. `size` is its bytes; None where they cannot be known."""

    extract: str
    size: int | None


@dataclass(frozen=True)
class Progress:
    """So many rows and bytes of an extract were read so far."""

    extract: str
    rows: int
    bytes_read: int


@dataclass(frozen=True)
class Finished:
    """An extract is delivered, refused, or skipped. These events come in the order of the extracts."""

    extract: str
    outcome: Outcome


Event: TypeAlias = Started | Progress | Finished
OnEvent: TypeAlias = Callable[[Event], None]


def ignore(event: Event) -> None:
    """For whoever shows nothing."""


def size_of(path: str) -> int | None:
    """Bytes of a file; None where that cannot be known."""
    try:
        return Path(split_address(path)[0]).stat().st_size if path != "-" else None
    except OSError:
        return None
