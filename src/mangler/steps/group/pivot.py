"""`pivot`: rows become columns."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import field, replace

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.aggregates.bind import BoundAggregate, bind_over_groups
from mangler.expressions.value import Bound, cast_to, failing
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.group_order import chosen
from mangler.kernels.keys.keys import Codes, keys_of
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.values.format_values import format_values
from mangler.language.declaration import Declaration, Example
from mangler.language.expression import Call, Expression
from mangler.language.expression import Column as ColumnNode
from mangler.language.literals import Name
from mangler.language.mistake import Mistake, extract_does_not_fit
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.group.grouping import Grouping, Groups, nulls_told
from mangler.steps.shared.case_twins import twins_told
from mangler.steps.shared.conditions import surroundings
from mangler.steps.shared.counters import CHANGES, FAILED, NULLS_SKIPPED, TWINS
from mangler.steps.shared.failing import Policy, policy_of, remarks_on_failures, take_out
from mangler.steps.shared.key_columns import refuse_lists
from mangler.steps.shared.new_columns import MOST_COLUMNS, Placement, placed
from mangler.table.batch import Batch
from mangler.table.contract import Gathering, GatheringStep, Step
from mangler.table.memory_budget import MemoryBudget
from mangler.table.partitioned_fold import PartitionedFold, in_first_seen_order
from mangler.table.schema import Schema, ValueType
from mangler.table.select import named_columns, quote_name
from mangler.table.spillable_rows import BLOCK
from mangler.table.state import StateReader, StateWriter
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="pivot",
    usage="pivot COLUMN into columns [of COLUMN] [with EXPR] [failures (stop|null)]",
    meaning="Makes columns of rows: one for each different value of the first column, named after it, with the second"
    " column's value in it. Rows that are alike in all other columns become one; drop those that should not count"
    " before. The new columns are behind all others, in the order in which their names appear first. A row without"
    " a name and without a value brings no column.",
    clauses={
        "of": "The column that has the values. Without it, with count() counts the rows of each cell.",
        "with": "What happens to several values for one cell: an aggregate, sum(made), or an expression over some,"
        " as in group. Without it, several are a failure.",
        "failures": "What happens to a cell with several values, and to a value without a name: stop (the default)"
        " delivers nothing and reports them; null takes null for the one, and skips the other.",
    },
    examples=(
        Example(
            "pivot piece into columns of made",
            "kiln | piece | made integer | result\n007 | bowl | 4 | good\n007 | vase | 3 | good\n"
            "012 | vase | 1 | cracked",
            "kiln | result | bowl integer | vase integer\n007 | good | 4 | 3\n012 | cracked | null | 1",
        ),
        Example(
            "pivot piece into columns of made with sum(made)",
            "kiln | piece | made integer\n007 | bowl | 4\n007 | bowl | 2\n012 | vase | 1\n044 | null | null",
            "kiln | bowl integer | vase integer\n007 | 6 | null\n012 | null | 1\n044 | null | null",
        ),
        Example(
            "pivot result into columns with count()",
            "kiln | result\n007 | good\n007 | cracked\n012 | good\n007 | good",
            "kiln | good integer | cracked integer\n007 | 2 | 1\n012 | 1 | null",
        ),
        Example(
            'pivot glaze into columns of kiln with join(distinct kiln, ", ")',
            "week | glaze | kiln\n18 | ash | 007\n18 | ash | 012\n18 | shino | 007",
            'week | ash | shino\n18 | "007, 012" | 007',
        ),
    ),
    counters=(*CHANGES, *FAILED, *NULLS_SKIPPED, *TWINS),
)


@dataclass(frozen=True)
class Pivot(GatheringStep):
    """`schema` has the columns that come in: the columns that come out are known when all names were seen.

    The rows are grouped by all other columns and the name; what comes from that is `others`, the name, the value, and
    how many values there were.
    """

    schema: Schema
    statement: Statement
    groups: Groups
    others: tuple[int, ...]
    name: int
    value: int | None
    """None where the rows themselves are counted."""
    one_each: bool
    """Whether a cell has one value."""
    policy: Policy
    is_open = True
    ways_out = 'with sum(…), first(…), join(…, ", ") or another aggregate, or failures null'

    def gather(self, budget: MemoryBudget) -> Pivoting:
        return Pivoting(self, budget, Grouping(self.groups, budget))


@dataclass(frozen=True)
class Pivoted(Step):
    """The step as it is when all names are known."""

    placement: Placement
    source: str
    one_each: bool
    makes_table = True
    ways_out = Pivot.ways_out

    @property
    def schema(self) -> Schema:
        return self.placement.schema

    @property
    def names(self) -> list[str]:
        return self.placement.new_names

    def facts(self, tally: Tally) -> list[str]:
        count = len(self.names)
        columns = "1 column comes" if count == 1 else f"{count:,} columns come"
        others = "another extract may have others, and require columns says which are needed"
        message = (
            f"{columns} from {self.source} here; {others}" if count else f"no column comes from {self.source}"
        )
        return [message, *([] if self.one_each else nulls_told(tally))]

    def remarks(self, tally: Tally) -> list[str]:
        return [*twins_told(tally, "row", "write one spelling before"), *remarks_on_failures(tally)]


@dataclass
class Pivoting(Gathering):
    step: Pivot
    budget: MemoryBudget
    grouping: Grouping
    names: dict[str, None] = field(default_factory=dict)
    tally: Tally = field(default_factory=Tally)
    resolved_step: Pivoted | None = None

    def absorb(self, batch: Batch, partition: int) -> None:
        seen = format_values(as_dictionary(batch.columns[self.step.name]).dictionary)
        self._add_names(seen.to_pylist())
        self.grouping.absorb(batch, partition)

    def merge(self, later: Pivoting) -> None:
        self._add_names(later.names)
        self.grouping.merge(later.grouping)

    def dump(self, state: StateWriter) -> None:
        state.record({"names": list(self.names)})
        self.grouping.dump(state)

    def load(self, state: StateReader) -> None:
        self._add_names(state.record()["names"])
        self.grouping.load(state)

    def _add_names(self, names: Iterable[str | None]) -> None:
        """Each different name is a column, in the order in which they come first."""
        self.names.update(dict.fromkeys(name for name in names if name))
        if len(self.names) > MOST_COLUMNS:
            source = self.step.schema.names[self.step.name]
            raise extract_does_not_fit(
                "too-many-columns",
                f'"{source}" has more than {MOST_COLUMNS:,} different values, and each would be a column',
                "Pivot a column of few values, or drop rows before.",
                self.step.statement.span,
            )

    def settle(self) -> Pivoted:
        step = self.step
        values = step.groups.schema.columns[len(step.others) + 1]
        span = step.statement.span_of("column")
        source = step.schema.names[step.name]
        for name in (step.schema.names[index] for index in step.others):
            if name in self.names:
                raise extract_does_not_fit(
                    "name-taken",
                    f'"{name}" is a value of "{source}" and would be a column, and there is one of that name already',
                    f"Give that column another name first: rename {quote_name(name)} to …",
                    span,
                )
        new = [(values.renamed(name), span) for name in self.names]
        sources = [step.name] if step.value is None else [step.name, step.value]
        placement = placed(step.statement, step.schema, sources, new, in_place=True, at_end=True)
        self.resolved_step = Pivoted(placement, source, step.one_each)
        return self.resolved_step

    def release(self) -> Iterator[Batch]:
        """Groups by name and all other columns become rows by all other columns."""
        assert self.resolved_step is not None
        width, at = len(self.step.others), 0
        tables = PartitionedFold([None], width, self.budget.share(2))
        for batch in self.grouping.release():
            checked = self._checked(batch)
            ordinals = pa.array(np.arange(at, at + len(checked)))
            at += len(checked)
            tables.add([checked.with_columns((*checked.columns[: width + 2], ordinals))])
        grouped = self.grouping.tally
        counts = Counter(grouped.counts)
        counts["cells_changed"] = counts["nulls_made"] = 0
        self.tally.add(replace(grouped, rows_out=0, rows_merged=0, counts=counts))
        columns = self.resolved_step.schema.columns
        yield from in_first_seen_order(tables, self._spread, len(columns), self.budget.share(2))
        self.tally.rows_merged = self.tally.rows_in - self.tally.withdrawn - self.tally.rows_out

    def _checked(self, batch: Batch) -> Batch:
        """Without the groups that fail: several values for one cell, or values without a name."""
        step, width = self.step, len(self.step.others)
        spelled, values = format_values(batch.columns[width]), batch.columns[width + 1]
        counts = np.asarray(batch.columns[width + 2])
        nameless = flags_of(pc.equal(spelled, "")) | np.asarray(spelled.is_null())
        several = (counts > 1) & ~nameless if step.one_each else np.zeros(len(batch), np.bool_)
        nameless &= counts > 0
        source = step.schema.names[step.name]
        failures = (
            *failing(nameless, f"a value without a name: {source} is blank"),
            *failing(several, lambda row: f"{counts[row]:,} values for {spelled[row].as_py()} in one row"),
        )
        if not failures:
            return batch
        if step.policy.takes_rows:
            return take_out(batch, failures, step.policy, self.tally)[0]
        bad = nameless | several
        self.tally.counts["failed_to_null"] += int(np.count_nonzero(bad))
        columns = list(batch.columns)
        columns[width + 1] = pc.if_else(from_numpy(bad), pa.scalar(None, values.type), values)
        return batch.with_columns(columns)

    def _spread(self, portion: Sequence[Batch | None]) -> Iterator[Batch]:
        """Rows with all their columns, and the place of each among all; so many at a time as make a block."""
        (rows,) = portion
        if rows is None:
            return
        assert self.resolved_step is not None
        width = len(self.step.others)
        keys = keys_of(rows.columns[:width], len(rows))
        names = pa.array(list(self.names), pa.string())
        codes = np.asarray(pc.index_in(format_values(rows.columns[width]), value_set=names).fill_null(-1))
        order = np.lexsort([codes, keys.codes])
        by_row = keys.codes[order]
        starts = np.searchsorted(by_row, np.arange(keys.count + 1))
        step = max(1, BLOCK // (16 * (len(names) + width + 1)))
        for first in range(0, keys.count, step):
            last = min(first + step, keys.count)
            some = order[starts[first] : starts[last]]
            yield self._some(rows, keys.first[first:last], some, keys.codes[some] - first, codes[some])

    def _some(self, rows: Batch, first: Codes, some: Codes, row_of: Codes, codes: Codes) -> Batch:
        """The rows that start with these groups; of groups `some` the row each is of, and its name."""
        assert self.resolved_step is not None
        width, count = len(self.step.others), len(first)
        values = rows.columns[width + 1]
        by_name = np.argsort(codes, kind="stable")
        splitters = np.searchsorted(codes[by_name], np.arange(len(self.names) + 1))
        new: list[ColumnArray] = []
        for start, end in zip(splitters[:-1].tolist(), splitters[1:].tolist(), strict=True):
            at = np.full(count, -1, np.int64)
            mine = by_name[start:end]
            at[row_of[mine]] = some[mine]
            new.append(chosen(values, at))
        carried: list[ColumnArray] = [None] * len(self.step.schema.columns)
        for number, index in enumerate(self.step.others):
            carried[index] = rows.columns[number].take(from_numpy(first))
        position = rows.columns[width + 2].take(from_numpy(first))
        columns = self.resolved_step.placement.put(carried, new)
        self.tally.rows_out += count
        self.tally.counts["cells_changed"] += count * len(new)
        self.tally.counts["nulls_made"] += sum(column.null_count for column in new)
        return Batch((*columns, position), rows.rows[first], rows.origin)


def bind(statement: Statement, schema: Schema) -> Pivot:
    name, value = statement.get("column", Name), statement.get("of", Name)
    assert name is not None
    index, *found_value = named_columns([name, *([value] if value else [])], schema)
    of = found_value[0] if found_value else None
    others = tuple(i for i in range(len(schema.columns)) if i not in (index, of))
    refuse_lists(schema, [index], name.span)
    refuse_lists(schema, others, statement.span, " Or drop it before.")
    keys = Schema(tuple(schema.columns[i] for i in (*others, index)), schema.gone)
    around = surroundings(statement, schema, DECLARATION.usage)
    one_each = not statement.has("with")
    value_of = statement.values.get("with")
    counted: tuple[Expression, ...] = ()
    if value is not None:
        counted = (ColumnNode(value.value, value.span),)
        if one_each:
            value_of = Call("first", counted, value.span)
    aggregates: list[BoundAggregate] = []
    made: list[tuple[str, Bound]] = []
    assert value_of is not None
    for called, expression in (("value", value_of), ("count", Call("count", counted, name.span))):
        bound, found = bind_over_groups(expression, around, keys, False, len(aggregates))
        aggregates += found
        made.append((called, cast_to(bound, bound.kind or ValueType.TEXT)))
    span = statement.span
    policy = policy_of(statement)
    groups = Groups(schema, (*others, index), False, tuple(aggregates), tuple(made), policy, span)
    return Pivot(schema, statement, groups, others, index, of, one_each, policy)


def check(statement: Statement) -> list[Mistake]:
    name, value = statement.get("column", Name), statement.get("of", Name)
    if name is None:
        return []
    if value is None:
        if statement.has("with"):
            return []
        return [
            Mistake(
                "clause-needed",
                "what is in the new columns is not said",
                f"Write of COLUMN, for the values of a column, or with count(), for how many rows:"
                f" pivot {quote_name(name.value)} into columns with count().",
                statement.span_of("column"),
            )
        ]
    if name.value != value.value:
        return []
    message = f"{quote_name(name.value)} has the names, and another column has the values"
    return [
        Mistake(
            "same-column",
            message,
            "pivot piece into columns of made: which column has the values?",
            value.span,
        )
    ]
