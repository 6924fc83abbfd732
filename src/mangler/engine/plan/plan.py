"""Bind, then run: a recipe's steps on an extract's columns, before any row is read."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from typing import TypeAlias

import pyarrow as pa

from mangler.engine.plan.oversights import oversights
from mangler.engine.plan.several_extracts import refuse_file_of_row
from mangler.formats.contract import Explanation
from mangler.kernels.text.text_view import TooLargeError
from mangler.language.layout import one_line
from mangler.language.mistake import (
    ExitCode,
    Mistake,
    Refusal,
    enumerate_names,
    extract_does_not_fit,
    wrong_recipe,
)
from mangler.language.names import columns_mentioned
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps import VERBS, bind
from mangler.table.batch import Batch
from mangler.table.contract import BoundStep, GatheringStep, RowStep
from mangler.table.schema import Schema
from mangler.table.select import quote_name

Explain: TypeAlias = Callable[[], Explanation | None]


@dataclass(frozen=True)
class PlannedStep:
    statement: Statement
    step: BoundStep
    oversights: tuple[str, ...] = ()
    """Remarks on what is accepted and surely not meant."""

    @property
    def text(self) -> str:
        """The statement on one line, as the summary shows it."""
        return one_line(self.statement)


@contextmanager
def growth_reported(planned: PlannedStep, batch: Batch) -> Iterator[None]:
    """Refuses, at the step that is worked on, what would make too much of a batch or take too long on a cell."""
    try:
        yield
    except (TooLargeError, pa.ArrowCapacityError) as error:
        rows = (
            f"rows {batch.rows.min():,} to {batch.rows.max():,}"
            if len(batch) > 1
            else f"row {batch.rows[0]:,}"
        )
        raise extract_does_not_fit(
            "too-large",
            f"{batch.origin.file}, {rows}: {error}",
            "Nothing is delivered. Let the step make less of each row, or split long cells before it.",
            planned.statement.span,
        ) from None


@dataclass(frozen=True)
class Plan:
    steps: tuple[PlannedStep, ...]
    schema: Schema
    """The columns that come out."""
    rest: tuple[Statement, ...] = ()
    """Steps after one whose columns depend on the rows: they are bound when those are known."""

    @property
    def is_open(self) -> bool:
        """Whether the columns that come out are not known yet."""
        return bool(self.steps) and self.steps[-1].step.is_open


def plan(
    recipe: ParsedRecipe, schema: Schema, explain: Explain = lambda: None, further: Sequence[Statement] = ()
) -> Plan:
    """Binds every step of a recipe, and then further ones, to columns like these.

    All that does not fit is raised together, a column that is missing once. Where columns are missing and
    `explain` says that they come from the way of reading, that is the mistake that is raised.
    """
    return go_on(recipe, (*recipe.statements, *further), schema, explain)


def first_of_many(recipe: ParsedRecipe, schema: Schema) -> int | None:
    """The place among the steps of the first that fits and looks at more than one row at a time; None for none."""
    steps = steps_of(recipe)
    fitting = bind_steps(steps, schema).steps
    found = next((one.statement for one in fitting if not isinstance(one.step, RowStep)), None)
    return None if found is None else steps.index(found)


def steps_of(recipe: ParsedRecipe) -> list[Statement]:
    """The statements that do something to a table."""
    return [one for one in recipe.statements if VERBS.is_step(one.verb)]


def plan_held(recipe: ParsedRecipe, held: Sequence[Statement], schema: Schema) -> Plan:
    """Binds the last steps of a recipe, which see the rows of several extracts as one table, to the columns of all."""
    bound = bind_steps(held, schema, several=held[0] if held else None)
    if bound.mistakes:
        raise Refusal(_once_each(recipe, bound.mistakes, lambda: None), _together(bound.codes))
    return Plan(bound.steps, bound.schema, bound.rest)


def go_on(
    recipe: ParsedRecipe, statements: Sequence[Statement], schema: Schema, explain: Explain = lambda: None
) -> Plan:
    """Binds some steps of a recipe to the columns that come to them."""
    bound = bind_steps(statements, schema)
    if bound.mistakes:
        raise Refusal(_once_each(recipe, bound.mistakes, explain), _together(bound.codes))
    return Plan(bound.steps, bound.schema, bound.rest)


@dataclass(frozen=True)
class Bound:
    """Steps that fit, and the mistakes of the others."""

    steps: tuple[PlannedStep, ...]
    schema: Schema
    mistakes: list[Mistake]
    codes: list[ExitCode]
    rest: tuple[Statement, ...] = ()
    """Steps whose columns are not known yet."""


def bind_steps(statements: Iterable[Statement], schema: Schema, several: Statement | None = None) -> Bound:
    """Binds steps one after the other, each to the columns that those before it leave.

    `several`: from this statement on the rows are those of several extracts.
    """
    steps: list[PlannedStep] = []
    mistakes: list[Mistake] = []
    codes: list[ExitCode] = []
    unmade: set[str] = set()
    gathers: Statement | None = None
    waiting = [statement for statement in statements if VERBS.is_step(statement.verb)]
    rest: tuple[Statement, ...] = ()
    for index, statement in enumerate(waiting):
        try:
            _refuse_aside(statement, gathers, several)
            step = bind(with_references(statement), schema)
        except Refusal as refusal:
            # What a step lacks that an earlier one would have made, had it been right, is no mistake of its own.
            messages = [m for m in refusal.mistakes if not m.missing or not set(m.missing) <= unmade]
            mistakes += messages
            codes += [refusal.code] * bool(messages)
            unmade |= set(columns_mentioned(statement)) - set(schema.names)
            unmade -= {name for mistake in messages for name in mistake.missing}
            continue
        steps.append(PlannedStep(statement, step, oversights(statement, schema)))
        if several is not None and (gathers is not None or isinstance(step, GatheringStep)):
            mistakes += (unknown := refuse_file_of_row(statement, several))
            codes += [ExitCode.WRONG_FOR_ANY_EXTRACT] * len(unknown)
        gathers = gathers or (statement if isinstance(step, GatheringStep) else None)
        schema = step.schema
        if step.is_open:
            rest = tuple(waiting[index + 1 :])
            for later in rest:  # what is wrong with any columns is reported before a row is read
                try:
                    _refuse_aside(later, gathers, several)
                except Refusal as refusal:
                    mistakes += refusal.mistakes
                    codes.append(refusal.code)
            break
    return Bound(tuple(steps), schema, mistakes, codes, rest)


def _together(codes: Sequence[ExitCode]) -> ExitCode:
    """A file that makes trouble first of all; then whether another extract would fit."""
    if ExitCode.FILE_TROUBLE in codes:
        return ExitCode.FILE_TROUBLE
    wrong_anyway = all(code is ExitCode.WRONG_FOR_ANY_EXTRACT for code in codes)
    return ExitCode.WRONG_FOR_ANY_EXTRACT if wrong_anyway else ExitCode.ANSWER_IS_NO


def _refuse_aside(statement: Statement, gathers: Statement | None, several: Statement | None) -> None:
    """After a step that must see all rows nothing can be set aside: its extract row may be anywhere by then.

    Nor where the rows of several extracts are one table: each extract was read to its end by then.
    """
    said = [key for key, value in statement.values.items() if value == "aside"]
    first = several or gathers
    if first is None:
        return
    if not said and not VERBS.declaration(statement.verb).needs_extract_rows:
        return
    why = "which must see all rows first" if gathers else "from which on the extracts are one table"
    where = "in" if first is statement else "after"
    raise wrong_recipe(
        "aside-after-gathering",
        f"rows cannot be set aside {where} {first.verb} (line {first.label}), {why}",
        f"Move this step above line {first.label}, or say something else than aside.",
        statement.span_of(said[0]) if said else statement.span,
    )


def with_references(statement: Statement) -> Statement:
    """The statement with what the file holds that it names; most name none, and start faster without the reader."""
    if not statement.has(VERBS.declaration(statement.verb).reads_file) or "reference" in statement.values:
        return statement
    from mangler.engine.plan.references import with_reference

    return with_reference(statement)


def _once_each(recipe: ParsedRecipe, mistakes: list[Mistake], explain: Explain) -> list[Mistake]:
    """Without repetitions of a missing column; with one mistake for all of them where the delimiter explains it."""
    seen: set[str] = set()
    kept: list[Mistake] = []
    missing = [name for mistake in mistakes for name in mistake.missing]
    why = explain()
    for mistake in mistakes:
        if not mistake.missing or not (why or seen.issuperset(mistake.missing)):
            kept.append(mistake)
        seen.update(mistake.missing)
    if why and missing:
        read = recipe.only("read")
        names = enumerate_names([quote_name(name) for name in dict.fromkeys(missing)])
        advice = f"Columns missing so: {names}.\n{why.advice}"
        kept.insert(
            0, Mistake("read-otherwise", why.message, advice, read.span_of(why.clause) if read else None)
        )
    return kept
