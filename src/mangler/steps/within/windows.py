"""What rows ask of their groups: by which columns, in which order, with which calls."""

from __future__ import annotations

from collections.abc import Sequence

from mangler.expressions.aggregates.aggregate import Columns
from mangler.expressions.aggregates.bind import BoundAggregate
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.order import SortKey
from mangler.kernels.values.format_values import format_values
from mangler.language.mistake import Refusal, extract_does_not_fit
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass
from mangler.steps.within.calls import WindowCall
from mangler.table.schema import Schema


@dataclass(frozen=True)
class Windows:
    """Rows are of one group where they are alike in `keys`; `order` are the columns that sort a group."""

    before: Schema
    keys: tuple[int, ...]
    order: tuple[int, ...]
    sort_keys: tuple[SortKey, ...]
    calls: tuple[WindowCall, ...]
    span: SourceSpan

    @property
    def arguments(self) -> list[tuple[int, int]]:
        """The call and the place of each argument that is there, in the order of their columns."""
        return [
            (call, place)
            for call, one in enumerate(self.calls)
            for place, argument in enumerate(one.arguments)
            if argument is not None
        ]

    def spread(self, columns: Sequence[ColumnArray]) -> tuple[Columns, ...]:
        """For each call its arguments; None where it has none in a place."""
        out: list[list[ColumnArray]] = [[None] * len(call.arguments) for call in self.calls]
        for (call, place), column in zip(self.arguments, columns, strict=True):
            out[call][place] = column
        return tuple(out)

    def told(self, keys: Sequence[ColumnArray]) -> str:
        """` (kiln 007)`: which group it is, of keys of one row."""
        names = [self.before.columns[index].name for index in self.keys]
        cells = [f"{name} {format_values(key)[0]}" for name, key in zip(names, keys, strict=True)]
        return f" ({', '.join(cells)})" if cells else ""

    def too_large(self, group: str, aggregate: BoundAggregate | None, size: int | None) -> Refusal:
        what = aggregate.text if aggregate is not None else "a call"
        much = f" take {size >> 20:,} MB, and" if size else ""
        return extract_does_not_fit(
            "group-too-large",
            f"the values of one group{group}{much} must be in memory together for {what}",
            "--memory allows more, up to 2 GB for a group. Or take more columns after within.",
            self.span,
        )
