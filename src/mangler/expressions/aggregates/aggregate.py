"""What an aggregate is: what it declares for the reference, and how it brings the rows of a group together.

There are two ways. A *folding* aggregate keeps a few cells per group, its state: states of the same group fold into
one. A *collecting* aggregate keeps rows of its own, of which some may fold. Either way what is folded in between, and
how often, never shows in the result.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol, TypeAlias

from mangler.expressions.value import Bound, Failure
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.keys import Codes
from mangler.kernels.keys.segments import Segments
from mangler.kernels.taking import take
from mangler.language.declaration import Example
from mangler.language.expression import Call
from mangler.late_dataclass import dataclass
from mangler.table.schema import ValueType

Columns: TypeAlias = list[ColumnArray]
"""Arrow arrays of one length."""


class Folding(Protocol):
    """`codes[i]` is the number of row i's group, of `count` groups; rows of a group come in their order."""

    @property
    def kind(self) -> ValueType: ...

    def initial_states(self, value: ColumnArray, order: ColumnArray, count: int) -> Columns:
        """The states of single rows: of the argument's values, and those of `sorted by`, where there are any."""
        ...

    def fold(self, codes: Codes, count: int, states: Columns) -> Columns:
        """A state a group."""
        ...

    def so_far(self, segments: Segments, states: Columns) -> Columns:
        """For each row the state of the rows of its group up to it, of states of single rows group by group."""
        ...

    def finish(self, states: Columns) -> tuple[ColumnArray, tuple[Failure, ...]]:
        """The values of groups."""
        ...


@dataclass(frozen=True)
class Arrangement:
    """Rows group by group."""

    codes: Codes
    """The group of each."""
    rows: Codes
    """Which row of the columns each is."""
    columns: Columns

    def some(self, first: int, last: int) -> Columns:
        """The cells of some of the rows."""
        rows = self.rows[first:last]
        return [take(column, rows) for column in self.columns]


class Collecting(Protocol):
    @property
    def kind(self) -> ValueType: ...

    @property
    def folds(self) -> bool:
        """Whether rows of its own can fold."""
        ...

    @property
    def tells_apart(self) -> Callable[[Columns], Columns] | None:
        """Where folding keeps the first row of each group with the same cells: what of the cells is compared."""
        ...

    def collect(self, value: ColumnArray, order: ColumnArray) -> tuple[Codes, Columns]:
        """Rows of its own: for each the row that it is of, and its cells."""
        ...

    def fold(self, codes: Codes, columns: Columns) -> tuple[Codes, Columns]:
        """Fewer rows that say the same: which of them stay, and their cells."""
        ...

    def arrange(self, codes: Codes, columns: Columns, is_folded: bool = False) -> Arrangement:
        """All rows folded, which they may be already, group by group, as they are needed to finish."""
        ...

    def finish(self, columns: Columns, offsets: Codes) -> tuple[ColumnArray, tuple[Failure, ...]]:
        """The values of some groups: rows `offsets[i]` to `offsets[i + 1]` are those of group i."""
        ...


Reducer: TypeAlias = Folding | Collecting


def is_folding(reducer: Reducer) -> bool:
    """Whether an aggregate keeps a state per group, and no rows of its own."""
    return hasattr(reducer, "initial_states")


@dataclass(frozen=True)
class Wanted:
    """A call as it is bound to columns: its argument, what it is sorted by, and what it says besides."""

    node: Call
    argument: Bound | None
    order: Bound | None
    separator: str
    anycase: bool
    share: float = 0.5

    @property
    def distinct(self) -> bool:
        return self.node.distinct

    @property
    def descending(self) -> bool:
        return self.node.descending


@dataclass(frozen=True)
class Aggregate:
    """An aggregate of the language. `accepts` None: values of any type."""

    name: str
    signature: str
    meaning: str
    examples: Sequence[Example]
    reducer: Callable[[Wanted], Reducer]
    accepts: frozenset[ValueType] | None = None
    takes_distinct: bool = False
    takes_order: bool = False
    takes_separator: bool = False
    takes_share: bool = False
    needs_argument: bool = True
    skips_nulls: bool = True
    """Whether nulls that it skips are reported."""
