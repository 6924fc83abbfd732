"""Bind, then run: a recipe's steps on an extract's columns, before any row is read."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass

import pyarrow as pa

from mangler.kernels.text_view import TooLargeError
from mangler.language.layout import one_line
from mangler.language.mistake import (
    ExitCode,
    Mistake,
    Refusal,
    enumerate_names,
    extract_does_not_fit,
    wrong_recipe,
)
from mangler.language.names import columns_spoken_of
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement
from mangler.steps import FRAME, bind
from mangler.table.batch import Batch
from mangler.table.contract import BoundStep, is_open
from mangler.table.schema import Schema
from mangler.table.select import spell

READING_VERBS = {"map": "from", "lookup": "text"}
"""Verbs that name a file, and where."""

WAYS_OUT = "failures aside, or another of mangler manual failures"


@dataclass(frozen=True)
class PlannedStep:
    statement: Statement
    step: BoundStep

    @property
    def text(self) -> str:
        """The statement on one line, as the summary shows it."""
        return one_line(self.statement)

    @property
    def ways_out(self) -> str:
        """What can be said in the statement of rows that fail."""
        return str(getattr(self.step, "ways_out", WAYS_OUT))


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
            f"{batch.origin.file}, {rows}: {error}",
            "Nothing is delivered. Let the step make less of each row, or split long cells before it.",
            planned.statement.place,
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
        return bool(self.steps) and is_open(self.steps[-1].step)


def plan(
    recipe: ParsedRecipe, schema: Schema, hint: Callable[[], str] = str, further: Sequence[Statement] = ()
) -> Plan:
    """Binds every step of a recipe, and then further ones, to columns like these.

    All that does not fit is raised together, a column that is missing once. Where columns are missing and
    `hint` says that another delimiter would bring more of them, that is the mistake to tell.
    """
    return go_on(recipe, (*recipe.statements, *further), schema, hint)


def go_on(
    recipe: ParsedRecipe, statements: Sequence[Statement], schema: Schema, hint: Callable[[], str] = str
) -> Plan:
    """Binds some steps of a recipe to the columns that come to them."""
    bound = bind_steps(statements, schema)
    if bound.mistakes:
        raise Refusal(_once_each(recipe, bound.mistakes, hint()), _together(bound.codes))
    return Plan(bound.steps, bound.schema, bound.rest)


@dataclass(frozen=True)
class Bound:
    """Steps that fit, and what was told of those that do not."""

    steps: tuple[PlannedStep, ...]
    schema: Schema
    mistakes: list[Mistake]
    codes: list[ExitCode]
    rest: tuple[Statement, ...] = ()
    """Steps whose columns are not known yet."""


def bind_steps(statements: Iterable[Statement], schema: Schema) -> Bound:
    """Binds steps one after the other, each to the columns that those before it leave."""
    steps: list[PlannedStep] = []
    mistakes: list[Mistake] = []
    codes: list[ExitCode] = []
    unmade: set[str] = set()
    gathers: Statement | None = None
    waiting = [statement for statement in statements if statement.verb not in FRAME]
    rest: tuple[Statement, ...] = ()
    for place, statement in enumerate(waiting):
        try:
            _refuse_aside(statement, gathers)
            step = bind(_with_reference(statement), schema)
        except Refusal as refusal:
            # What a step lacks that an earlier one would have made, had it been right, is no mistake of its own.
            told = [m for m in refusal.mistakes if not m.missing or not set(m.missing) <= unmade]
            mistakes += told
            codes += [refusal.code] * bool(told)
            unmade |= set(columns_spoken_of(statement)) - set(schema.names)
            unmade -= {name for mistake in told for name in mistake.missing}
            continue
        steps.append(PlannedStep(statement, step))
        gathers = gathers or (statement if hasattr(step, "gather") else None)
        schema = step.schema
        if is_open(step):
            rest = tuple(waiting[place + 1 :])
            for later in rest:  # what is wrong with any columns is told before a row is read
                try:
                    _refuse_aside(later, gathers)
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


def _refuse_aside(statement: Statement, gathers: Statement | None) -> None:
    """After a step that must see all rows nothing can be set aside: its extract row may be anywhere by then."""
    said = [key for key, value in statement.values.items() if value == "aside"]
    if gathers is None:
        return
    if not said and statement.verb != "set aside rows":
        return
    raise wrong_recipe(
        f"rows cannot be set aside after {gathers.verb} (line {gathers.label}), which must see all rows first",
        f"Move this step above line {gathers.label}, or say something else than aside.",
        statement.place_of(said[0]) if said else statement.place,
    )


def _with_reference(statement: Statement) -> Statement:
    """The statement with what the file holds that it names; most name none, and start faster without the reader."""
    if not statement.has(READING_VERBS.get(statement.verb, "")):
        return statement
    from mangler.engine.references import with_reference

    return with_reference(statement)


def _once_each(recipe: ParsedRecipe, mistakes: list[Mistake], hint: str) -> list[Mistake]:
    """Without repetitions of a missing column; with one mistake for all of them where the delimiter explains it."""
    told: set[str] = set()
    kept: list[Mistake] = []
    missing = [name for mistake in mistakes for name in mistake.missing]
    for mistake in mistakes:
        if not mistake.missing or not (hint or told.issuperset(mistake.missing)):
            kept.append(mistake)
        told.update(mistake.missing)
    if hint and missing:
        read = recipe.only("read")
        names = enumerate_names([spell(name) for name in dict.fromkeys(missing)])
        advice = (
            f"Columns missing so: {names}.\nIf the extract is to be read as it is, leave the delimiter out of read,"
            " and it is found out."
        )
        kept.insert(0, Mistake(hint, advice, read.place_of("delimiter") if read else None))
    return kept
