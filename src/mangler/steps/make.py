"""`make`: new columns, or new values for existing columns."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from mangler.expressions.value import Bound, Failure, cast_to, stored_in_places
from mangler.kernels.arrow import ArrowType, ColumnArray, from_numpy
from mangler.kernels.text.fields import entries_of
from mangler.kernels.text.growth import refuse_batch_beyond
from mangler.kernels.text.text_view import Flags
from mangler.kernels.values.convert import cast_exactly
from mangler.language.declaration import Declaration, Example
from mangler.language.expression import Column as ColumnValue
from mangler.language.expression import Expression
from mangler.language.literals import Hole, Name, Template
from mangler.language.mistake import ExitCode, Mistake, Refusal, wrong_recipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.columnwise import apply_where, remarks_on_condition
from mangler.steps.shared.conditions import Condition, bind_in, condition_of, evaluate, surroundings
from mangler.steps.shared.counters import CHANGES, CONDITION, FAILED
from mangler.steps.shared.failing import FAILURES, Policy, policy_of, remarks_on_failures, take_out
from mangler.steps.shared.key_columns import said_twice
from mangler.steps.shared.literals import WIDENED, fit_literal
from mangler.steps.shared.new_values import count_changes, new_cells
from mangler.steps.within.binding import SORTED_BY, WITHIN, Group, bind_within, group_of, is_within
from mangler.steps.within.calls import WindowCall
from mangler.steps.within.making import WithinGathering, refuse_aside_within
from mangler.steps.within.sorted_rows import Result
from mangler.steps.within.windows import Windows
from mangler.table.batch import Batch
from mangler.table.contract import Gathering, GatheringStep, RowStep
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import missing_column
from mangler.table.stored_types import changed
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="make",
    usage="make {NAME = EXPR}, … [within COLUMNS|within all rows] [sorted by {COLUMN [descending]}, …]"
    " [after COLUMN|first|last] [where CONDITION] [failures (stop|aside|null|VALUE)]",
    meaning="Makes new columns of expressions, or gives columns that are there new values. All its expressions see the"
    " values from before it. New columns are last by default. With within, an expression can use aggregates, which"
    " see the rows of the row's group: made / sum(made). With sorted by as well, it can use the rows beside its own:"
    " previous(x), next(x), running(sum(x)), rank(). The rows stay as they are, and where they are. where then"
    " says which rows get a value, and which rows the group has.",
    clauses={
        "within": WITHIN,
        "within all rows": "The whole table is one group.",
        "sorted by": SORTED_BY,
        "after": "New columns are right after this one.",
        "first": "New columns are before all others.",
        "last": "New columns are after all others, the default.",
        "failures": f"{FAILURES}; null or a value puts that into the cell.",
    },
    examples=(
        Example(
            'make label = "{kiln} / {potter}", initial = left(potter, 1) after kiln',
            "kiln | potter | cone\n007 | Tove | 06\n012 | null | 6",
            "kiln | label | initial | potter | cone\n007 | 007 / Tove | T | Tove | 06\n012 | null | null | null | 6",
        ),
        Example(
            'make heat = if integer(peak_c) >= 1200 then "high" else "low" failures "unknown"',
            "peak_c\n1222\n998\ntbc",
            "peak_c | heat\n1222 | high\n998 | low\ntbc | unknown",
        ),
        Example(
            "make kiln = pad_left(kiln, 3, '0') where length(kiln) < 3",
            "kiln\n7\n012",
            "kiln\n007\n012",
        ),
        Example(
            "make share = made / sum(made) within kiln",
            "kiln | made integer\n007 | 3\n012 | 2\n007 | 1",
            "kiln | made integer | share float\n007 | 3 | 0.75\n012 | 2 | 1\n007 | 1 | 0.25",
        ),
        Example(
            "make so_far = running(sum(made)), place = rank(), before = previous(made) within kiln sorted by fired_on",
            "kiln | fired_on date | made integer\n007 | 2026-05-11 | 3\n012 | 2026-05-04 | 2\n007 | 2026-05-04 | 1",
            "kiln | fired_on date | made integer | so_far integer | place integer | before integer\n"
            "007 | 2026-05-11 | 3 | 4 | 2 | 1\n012 | 2026-05-04 | 2 | 2 | 1 | null\n"
            "007 | 2026-05-04 | 1 | 1 | 1 | null",
        ),
    ),
    counters=(*CHANGES, *CONDITION, *FAILED, "nulls_by_hole"),
)


@dataclass(frozen=True)
class Made:
    """One column: its expression, where it is among the columns before the step (-1: it is new), its type."""

    name: str
    bound: Bound
    index: int
    kind: ValueType
    stored: ArrowType = None
    """The decimal of stated places that it is kept as; None for the usual type."""
    holes: tuple[str, ...] = ()
    """Columns that make the text null where they are: those in the holes of a text with several."""


@dataclass(frozen=True)
class Make(RowStep):
    before: Schema
    schema: Schema
    made: tuple[Made, ...]
    at: int
    """The new columns come before the old one of this place."""
    condition: Condition | None
    policy: Policy

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        batch, met, tally = apply_where(batch, self.condition)
        return self.with_values(batch, met, batch, self.before.names, (), tally)

    def with_values(
        self,
        batch: Batch,
        met: Flags | None,
        seen: Batch,
        names: Sequence[str],
        failures: Sequence[Failure],
        tally: Tally,
    ) -> tuple[Batch, Tally]:
        """The rows with what is made from them; `seen` are the columns that expressions see, under these names."""
        values = []
        failures = list(failures)
        for made in self.made:
            value = evaluate(made.bound, seen, names)
            old = batch.columns[made.index] if made.index >= 0 else None
            array, failed = new_cells(value, old, met, self.policy, tally, len(batch))
            if made.stored is not None and array.type != made.stored:
                array = cast_exactly(array, made.stored).array
            values.append(array)
            failures += failed
            refuse_batch_beyond(sum(one.nbytes for one in values), "the new columns")
        batch, stay = take_out(batch, failures, self.policy, tally)
        if stay is not None:
            values = [array.filter(from_numpy(stay)) for array in values]
        self._count(batch, values, tally)
        tally.rows_out = len(batch)
        old_columns = entries_of(batch.columns)
        new_columns = []
        for made, array in zip(self.made, values, strict=True):
            if made.index >= 0:
                old_columns[made.index] = array
            else:
                new_columns.append(array)
        old_columns[self.at : self.at] = new_columns
        return batch.with_columns(old_columns), tally

    def _count(self, batch: Batch, values: Sequence[ColumnArray], tally: Tally) -> None:
        for made, array in zip(self.made, values, strict=True):
            if made.index >= 0:
                count_changes(batch.columns[made.index], array, tally)
            else:
                tally.counts["cells_changed"] += len(array)
                tally.counts["nulls_made"] += array.null_count
            if array.null_count and self.condition is None:
                for name in made.holes:
                    nulls = batch.columns[self.before.names.index(name)].null_count
                    tally.histogram("nulls_by_hole")[name] += nulls

    def facts(self, tally: Tally) -> list[str]:
        """Which hole made how many nulls."""
        counts = tally.histograms.get("nulls_by_hole", Counter())
        told = [
            f"{name} in {count:,} {'row' if count == 1 else 'rows'}"
            for name, count in counts.items()
            if count
        ]
        return [f"null where a hole is null: {', '.join(sorted(told))}"] if told else []

    def remarks(self, tally: Tally) -> list[str]:
        return [*remarks_on_condition(tally), *remarks_on_failures(tally)]


@dataclass(frozen=True)
class MakeWithin(GatheringStep):
    """`make` with `within`: the rows are gathered first."""

    make: Make
    windows: Windows
    schema: Schema
    ways_out = "failures null, or convert the column before, with its own failures"

    def gather(self, budget: MemoryBudget) -> Gathering:
        make, names = self.make, [*self.make.before.names, *(call.name for call in self.windows.calls)]

        def made(batch: Batch, met: Flags | None, values: Sequence[Result], tally: Tally) -> Batch:
            seen = batch.with_columns((*batch.columns, *(value.array for value in values)))
            failures = [failure for value in values for failure in value.failures]
            out, counted = make.with_values(batch, met, seen, names, failures, Tally())
            tally.add(counted)
            return out

        return WithinGathering(self.windows, make.condition, make.policy, made, budget)

    def remarks(self, tally: Tally) -> list[str]:
        return self.make.remarks(tally)

    def facts(self, tally: Tally) -> list[str]:
        return self.make.facts(tally)


def bind(statement: Statement, schema: Schema) -> Make | MakeWithin:
    usage, policy = DECLARATION.usage, policy_of(statement)
    condition = condition_of(statement, schema, usage)
    mistakes: list[Mistake] = []
    codes: list[ExitCode] = []
    made: list[Made] = []
    group = _group_of(statement, schema) if is_within(statement) else None
    if group is None and statement.has("sorted by"):
        raise _order_of_nothing(statement)
    calls: list[WindowCall] = []
    for item in statement.values["name"]:
        name: Name = item["name"]
        index = schema.names.index(name.value) if name.value in schema.names else -1
        try:
            if group is None:
                bound = bind_in(statement, item["="], schema, usage)
            else:
                around = surroundings(statement, schema, usage)
                bound, found = bind_within(item["="], around, bool(group.order), len(calls))
                calls += found
            one = _made(name, bound, index, schema, condition, policy)
            made.append(replace(one, holes=_holes(item["="], schema)))
        except Refusal as refusal:
            mistakes += refusal.mistakes
            codes.append(refusal.code)
    span = statement.get("after", Name)
    if span is not None and span.value not in schema.names:
        mistake, always = missing_column(span, schema)
        mistakes.append(mistake)
        codes.append(ExitCode.WRONG_FOR_ANY_EXTRACT if always else ExitCode.ANSWER_IS_NO)
    if mistakes:
        raise Refusal(mistakes, min(codes))
    make = Make(schema, *_layout(statement, schema, made), condition, policy)
    if group is None:
        return make
    refuse_aside_within(statement)
    windows = Windows(schema, group.keys, group.order, group.sort_keys, tuple(calls), statement.span)
    return MakeWithin(make, windows, make.schema)


def _holes(expression: Expression, schema: Schema) -> tuple[str, ...]:
    """The columns that stand alone in holes of a text, where there are several that may make it null."""
    if not isinstance(expression, Template):
        return ()
    inner = [part.expression for part in expression.parts if isinstance(part, Hole) and not part.optional]
    names = {one.name: None for one in inner if isinstance(one, ColumnValue) and one.name in schema.names}
    return tuple(names) if len(names) > 1 else ()


def _group_of(statement: Statement, schema: Schema) -> Group:
    """The groups of rows. A column that only this statement makes is none of those that make them."""
    try:
        return group_of(statement, schema, DECLARATION.usage)
    except Refusal as refusal:
        made = {item["name"].value for item in statement.values["name"]}
        raise Refusal(
            [
                replace(
                    mistake,
                    message=f'"{mistake.missing[0]}" is made by this statement, and the groups are from before it',
                    advice="Make it in a statement of its own, above this one.",
                )
                if mistake.missing and mistake.missing[0] in made
                else mistake
                for mistake in refusal.mistakes
            ],
            refusal.code,
        ) from None


def _order_of_nothing(statement: Statement) -> Refusal:
    return wrong_recipe(
        "order-of-nothing",
        "sorted by says in which order the rows of a group are, and no group is said",
        "Write within COLUMNS before it, or within all rows.",
        statement.span_of("sorted by"),
    )


def _made(
    name: Name, bound: Bound, index: int, schema: Schema, condition: Condition | None, policy: Policy
) -> Made:
    kind = bound.kind or (schema.columns[index].type if index >= 0 else ValueType.TEXT)
    if index >= 0 and condition is not None:
        old = schema.columns[index].type
        if kind is not old and (kind, old) not in WIDENED:
            raise wrong_recipe(
                "mixed-types",
                f'where leaves other rows of "{name.value}" as they are, {old}, and the new values are {kind}',
                f"Convert the value, {old}(…), or make a column of another name.",
                name.span,
            )
        kind = old
    bound = cast_to(bound, kind)
    if policy.literal is not None:
        fit_literal(policy.literal, kind)
    stays = index >= 0 and (condition is not None or policy.name == "keep")
    literal = policy.literal.value if policy.literal is not None else None
    return Made(name.value, bound, index, kind, None if stays else stored_in_places(bound, literal))


def _layout(
    statement: Statement, schema: Schema, made: Sequence[Made]
) -> tuple[Schema, tuple[Made, ...], int]:
    """The columns that come out, and before which of the old ones the new ones come."""
    columns = list(schema.columns)
    for item in made:
        if item.index >= 0:
            old = columns[item.index]
            columns[item.index] = (
                changed(old) if statement.has("where") else Column(item.name, item.kind, item.stored)
            )
    after = statement.get("after", Name)
    at = 0 if statement.has("first") else len(columns)
    if after is not None:
        at = schema.names.index(after.value) + 1
    columns[at:at] = [Column(item.name, item.kind, item.stored) for item in made if item.index < 0]
    names = {item.name for item in made}
    gone = tuple(pair for pair in schema.gone if pair[0] not in names)
    return Schema(tuple(columns), gone), tuple(made), at


def check(statement: Statement) -> list[Mistake]:
    names = [item["name"] for item in statement.values["name"]]
    return said_twice(names, "is made twice", "Say it once, or write two statements.")
