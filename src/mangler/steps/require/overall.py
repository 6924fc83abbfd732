"""`require overall`: a condition that all rows together must meet."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from mangler.expressions.aggregates.bind import BoundAggregate, bind_over_groups
from mangler.expressions.scope import describe, way_out
from mangler.expressions.value import Bound, Frame, Value, cast_to
from mangler.language.declaration import Declaration, Example
from mangler.language.mistake import wrong_recipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.group.grouping import Grouping, Groups
from mangler.steps.require.requirement import BECAUSE
from mangler.steps.shared.conditions import surroundings
from mangler.steps.shared.counters import UNMET
from mangler.steps.shared.failing import Policy
from mangler.table.batch import Batch
from mangler.table.contract import Gathering, GatheringStep
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Schema, ValueType
from mangler.table.small import cells_of
from mangler.table.spillable_rows import SpillableRows
from mangler.table.state import StateReader, StateWriter
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="require overall",
    usage="require overall CONDITION [failures (stop|warn)] [because TEXT]",
    meaning="All rows together must meet the condition, which uses aggregates: sum(made) = 251. One that is null"
    " is not met; neither is one with a value that cannot be made. The rows pass as they are.",
    clauses={
        "failures": "What happens where it is not met: stop (the default) delivers nothing, warn lets the rows pass,"
        " and the summary warns.",
        "because": BECAUSE,
    },
    examples=(
        Example(
            'require overall sum(made) = 5 and count(kiln) = count() because "the studio\'s own total"',
            "kiln | made integer\n007 | 3\n012 | 2",
            "kiln | made integer\n007 | 3\n012 | 2",
        ),
    ),
    counters=UNMET,
)


@dataclass(frozen=True)
class RequireOverall(GatheringStep):
    schema: Schema
    groups: Groups
    aggregates: tuple[BoundAggregate, ...]
    spelled: str
    warns: bool
    because: str
    ways_out = "failures warn"

    def gather(self, budget: MemoryBudget) -> Gathering:
        return _Overall(self, budget)

    def verdict(self, tally: Tally) -> str:
        return self._why(tally) if tally.counts["unmet"] and not self.warns else ""

    def warnings(self, tally: Tally) -> list[str]:
        return [self._why(tally)] if tally.counts["unmet"] and self.warns else []

    def _why(self, tally: Tally) -> str:
        seen = "; ".join(tally.examples)
        return (self.because or f"{self.spelled} is not so") + (f": {seen}" if seen else "")


class _Overall(Gathering):
    """The rows wait in their order; what the aggregates need of them is brought together meanwhile."""

    def __init__(self, step: RequireOverall, budget: MemoryBudget) -> None:
        self._step = step
        self._rows = SpillableRows(budget.share(2))
        self._groups = Grouping(step.groups, budget.share(2))
        self.tally = Tally()

    def absorb(self, batch: Batch, partition: int) -> None:
        self.tally.rows_in += len(batch)
        self._rows.add(batch, partition)
        self._groups.absorb(batch, partition)

    def merge(self, later: _Overall) -> None:
        self.tally.add(later.tally)
        self._rows.extend(later._rows.consume(), later._rows.runs)
        self._groups.merge(later._groups)

    def dump(self, state: StateWriter) -> None:
        state.record(self.tally.to_record())
        self._rows.dump(state)
        self._groups.dump(state)

    def load(self, state: StateReader) -> None:
        self.tally.add(Tally.from_record(state.record()))
        self._rows.load(state)
        self._groups.load(state)

    def release(self) -> Iterator[Batch]:
        (row,) = (batch for batch in self._groups.release() if len(batch))
        met = row.columns[0][0].as_py()
        failed = self._groups.tally.counts["failed_to_null"]
        tally = self.tally
        if not met or failed:
            tally.counts["unmet"] += 1
            seen = [
                f"{aggregate.text} is {cells_of(column)[0] or 'null'}"
                for aggregate, column in zip(self._step.aggregates, row.columns[1:], strict=True)
            ]
            if failed:
                seen.append(f"{failed:,} {'value' if failed == 1 else 'values'} could not be made")
            tally.note_found([(number, text) for number, text in enumerate(dict.fromkeys(seen))])
        for batch in self._rows.consume():
            tally.rows_out += len(batch)
            yield batch
        self._rows.close()


def bind(statement: Statement, schema: Schema) -> RequireOverall:
    around = surroundings(statement, schema, DECLARATION.usage)
    nothing = Schema((), schema.gone)
    bound, found = bind_over_groups(statement.values["condition"], around, nothing, False, 0)
    if bound.kind not in (ValueType.BOOLEAN, None):
        raise wrong_recipe(
            "condition-needed",
            f"a condition is needed here, and {bound.span.text} is {describe(bound.kind)}",
            way_out(bound, "a condition"),
            bound.span,
        )
    made = [("met", cast_to(bound, ValueType.BOOLEAN))]
    shown = []
    for aggregate in found:
        if aggregate.reducer.kind is not ValueType.LIST:
            shown.append(aggregate)
            made.append(
                (aggregate.name, Bound(aggregate.reducer.kind, _column(aggregate.name), aggregate.span))
            )
    groups = Groups(schema, (), False, tuple(found), tuple(made), Policy("null"), statement.span)
    because = statement.text("because")
    return RequireOverall(
        schema,
        groups,
        tuple(shown),
        " ".join(statement.span_of("condition").text.split()),
        statement.choice("failures") == "warn",
        because.value if because else "",
    )


def _column(name: str) -> Callable[[Frame], Value]:
    return lambda frame: Value(frame.columns[name])
