"""The kinds of bound step: streaming, some of which carry something on from batch to batch, and gathering.

A step never prints, never reads a clock, and never opens a file that the plan did not give it.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Protocol, TypeAlias

from mangler.table.batch import Batch
from mangler.table.room import Room
from mangler.table.schema import Schema
from mangler.table.tally import Tally


class StreamingStep(Protocol):
    """Batch in, batch out. Called from several threads at once, so it keeps nothing between batches."""

    @property
    def schema(self) -> Schema:
        """The columns that come out."""
        ...

    def process(self, batch: Batch) -> tuple[Batch, Tally]: ...

    def remarks(self, tally: Tally) -> list[str]:
        """Sentences for the summary about a whole run with this tally: likely oversights, and what mends them."""
        ...


class CarryingStep(Protocol):
    """A streaming step that carries something from each batch to the next.

    Batches come to it in the order of their rows, one at a time; what it carries is all that is kept.
    """

    @property
    def schema(self) -> Schema: ...

    def start(self) -> Any:
        """What is carried to the first batch of a run; the step changes it from batch to batch."""
        ...

    def carry_on(self, batch: Batch, carried: Any) -> tuple[Batch, Tally]: ...

    def remarks(self, tally: Tally) -> list[str]: ...


class GatheringStep(Protocol):
    """A step that must see all rows before it can let one go."""

    @property
    def schema(self) -> Schema: ...

    def gather(self, room: Room) -> Gathering:
        """Begins a run. Rows beyond the room's budget go to its files."""
        ...

    def remarks(self, tally: Tally) -> list[str]: ...


class OpenStep(GatheringStep, Protocol):
    """A gathering step whose columns depend on the rows: `schema` is what it knows before it has seen them.

    Its gathering also has `settle`, which is called once, between the last `absorb` and `release`.
    """

    is_open: bool


class Gathering(Protocol):
    """The rows of one run that a step has gathered. Batches come in the order of their rows, one at a time."""

    @property
    def tally(self) -> Tally:
        """What the step did; complete when all rows are released."""
        ...

    def absorb(self, batch: Batch) -> None: ...

    def release(self) -> Iterator[Batch]:
        """The rows that come out; nothing can be absorbed any more."""
        ...


class OpenGathering(Gathering, Protocol):
    def settle(self) -> Any:
        """The step as it is now that all rows were seen: with its `schema`, `remarks`, and what else it shows."""
        ...


def is_open(step: Any) -> bool:
    """Whether the columns that come out are known only when all rows were seen."""
    return bool(getattr(step, "is_open", False))


BoundStep: TypeAlias = StreamingStep | CarryingStep | GatheringStep
"""What binding gives. The engine tells the kinds apart by `carry_on` and `gather`."""
