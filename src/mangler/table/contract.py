"""What a bound step is: row-wise, ordered or gathering. The engine knows steps only by what is written here.

A step never prints, never reads a clock, and never opens a file. What it knows of its statement and of the columns
that come to it was settled when it was bound.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator
from dataclasses import field
from typing import TYPE_CHECKING, Any, ClassVar, Generic, Protocol, Self, TypeAlias, TypeVar

import numpy as np
import numpy.typing as npt

from mangler.kernels.arrow import ColumnArray
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Schema
from mangler.table.state import StateReader, StateWriter
from mangler.table.tally import Tally

WAYS_OUT = "failures aside, or another of mangler manual failures"
State = TypeVar("State")
Counts: TypeAlias = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Report:
    """What a step says about a whole run with some counts."""

    remarks: list[str] = field(default_factory=list)
    """Likely oversights, each with what corrects it."""
    facts: list[str] = field(default_factory=list)
    """What the step did besides the counts; nothing to correct."""
    warnings: list[str] = field(default_factory=list)
    """What is not as the step requires, and is delivered all the same."""
    verdict: str = ""
    """Why all rows together are not as the step requires; empty where they are."""
    ways_out: str = WAYS_OUT
    """What the statement can say about rows that fail."""


class Step:
    """What all kinds of steps have, with the defaults."""

    if TYPE_CHECKING:  # at run time it would hide the fields of dataclasses

        @property
        def schema(self) -> Schema:
            """The columns that come out."""
            raise NotImplementedError

        @property
        def ways_out(self) -> str:
            """What the statement can say about rows that fail."""
            raise NotImplementedError
    else:
        ways_out = WAYS_OUT

    is_open: ClassVar[bool] = False
    """Whether the columns that come out depend on the rows. Then `schema` has the columns that come in."""
    makes_table: ClassVar[bool] = False
    """Whether `try` shows the rows that come out, and not what changed in each: the rows are others."""

    def remarks(self, tally: Tally) -> list[str]:  # noqa: ARG002
        """Likely oversights, seen from the counts of a whole run, each with what corrects it."""
        return []

    def facts(self, tally: Tally) -> list[str]:  # noqa: ARG002
        """What the step did besides the counts."""
        return []

    def warnings(self, tally: Tally) -> list[str]:  # noqa: ARG002
        """What is not as the step requires, and is delivered all the same."""
        return []

    def verdict(self, tally: Tally) -> str:  # noqa: ARG002
        """Why all rows together are not as the step requires; empty where they are."""
        return ""

    def report(self, tally: Tally) -> Report:
        """All that the step says about a whole run with this tally."""
        return Report(
            self.remarks(tally), self.facts(tally), self.warnings(tally), self.verdict(tally), self.ways_out
        )

    def split_preview(self) -> SplitOfCells | None:
        """How the step splits single cells, for `try` to show; None for steps that split none."""
        return None


class SplitOfCells(Protocol):
    """How a step splits the cells of one column."""

    @property
    def index(self) -> int:
        """The index of the column that is split."""
        ...

    @property
    def schema(self) -> Schema: ...

    @property
    def new_names(self) -> list[str]:
        """The columns that the parts go to."""
        ...

    def chosen(self, batch: Batch) -> Batch:
        """The rows that are split at all."""
        ...

    def part_counts(self, column: ColumnArray) -> Counts:
        """How many parts each cell has."""
        ...

    def delimiters_in(self, cell: str) -> list[tuple[int, int]]:
        """Where the delimiters of a cell start and end, in characters."""
        ...

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        """The step's work on some rows."""
        ...


class RowStep(Step, ABC):
    """Batch in, batch out. It is called from several threads at once, and keeps nothing between batches."""

    @abstractmethod
    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        """The rows that come out, and what was counted."""


class OrderedStep(Step, ABC, Generic[State]):
    """A step whose result for a row depends on the rows before it, through a state.

    A state describes any run of consecutive rows. `combine` is associative, so that runs can be summarised anywhere
    and their states combined in any grouping, as long as they stay in order.
    """

    @abstractmethod
    def initial(self) -> State:
        """The state of no rows."""

    @abstractmethod
    def summarise(self, batch: Batch) -> State:
        """The state of the rows of one batch."""

    @abstractmethod
    def combine(self, earlier: State, later: State) -> State:
        """The state of both runs of rows. It may reuse `earlier`, which is not used again."""

    @abstractmethod
    def apply(self, batch: Batch, before: State, own: State) -> tuple[Batch, Tally]:
        """The rows that come out. `before` is the state of all rows before the batch, `own` that of the batch."""


class GatheringStep(Step, ABC):
    """A step that must see all rows before it can release one."""

    keeps_rows: ClassVar[bool] = True
    """Whether the rows are kept as they come, with all their columns."""

    @abstractmethod
    def gather(self, budget: MemoryBudget) -> Gathering:
        """Begins a run. Rows beyond the budget go to its files."""


class EarlyStep(GatheringStep):
    """A gathering step that can let rows go before it has seen all, as long as what it must remember fits in memory.

    What comes out is the same, in the same order.
    """

    @abstractmethod
    def early(self, budget: MemoryBudget) -> Early[Any] | None:
        """Begins a run in which rows go as they come; None where they must wait."""


class Early(OrderedStep[State], ABC):
    """What an early step does in one run."""

    @abstractmethod
    def held(self) -> Iterator[Batch]:
        """Called once, when all rows have come: those that did not go, behind all that did."""

    @property
    @abstractmethod
    def tally(self) -> Tally:
        """What was counted beside the tallies of single batches; complete when the rows that were held are released."""


class Gathering(ABC):
    """The rows that a step has gathered from some partitions in ascending order.

    What comes out depends on the partition and the ordinal of each row, and never on how many rows were seen before:
    rows of some partitions can be gathered apart, by another thread or process, and merged.
    """

    tally: Tally
    """What the step counted; complete when all rows are released."""

    @abstractmethod
    def absorb(self, batch: Batch, partition: int) -> None:
        """Takes in the rows that came from one partition."""

    @abstractmethod
    def merge(self, later: Self) -> None:
        """Takes in what was gathered from later partitions; `later` cannot be used any more."""

    @abstractmethod
    def dump(self, state: StateWriter) -> None:
        """Writes what was gathered; nothing else can be done with it any more."""

    @abstractmethod
    def load(self, state: StateReader) -> None:
        """Takes in what `dump` wrote, which comes from later partitions than all so far."""

    def settle(self) -> Step | None:
        """Called once, when all rows were absorbed: the step as it is now, where its columns depend on the rows."""
        return None

    @abstractmethod
    def release(self) -> Iterator[Batch]:
        """The rows that come out; nothing can be absorbed any more."""


BoundStep: TypeAlias = RowStep | OrderedStep[Any] | GatheringStep
"""What binding gives."""
