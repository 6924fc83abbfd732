"""Bind, then run: a recipe's steps on an extract's columns, before any row is read."""

from __future__ import annotations

from dataclasses import dataclass

from mangler.language.layout import one_line
from mangler.language.mistake import ExitCode, Mistake, Refusal
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement
from mangler.steps import FRAME, bind
from mangler.table.contract import StreamingStep
from mangler.table.schema import Schema


@dataclass(frozen=True)
class PlannedStep:
    statement: Statement
    step: StreamingStep

    @property
    def text(self) -> str:
        """The statement on one line, as the summary shows it."""
        return one_line(self.statement)


@dataclass(frozen=True)
class Plan:
    steps: tuple[PlannedStep, ...]
    schema: Schema
    """The columns that come out."""


def plan(recipe: ParsedRecipe, schema: Schema, hint: str = "") -> Plan:
    """Binds every step to columns like these.

    All that does not fit is raised together. `hint`, if any, is said with the first column that is missing:
    it tells why so many may be.
    """
    steps: list[PlannedStep] = []
    mistakes: list[Mistake] = []
    codes: list[ExitCode] = []
    for statement in recipe.statements:
        if statement.verb in FRAME:
            continue
        try:
            step = bind(statement, schema)
        except Refusal as refusal:
            mistakes += refusal.mistakes
            codes.append(refusal.code)
            continue
        assert not hasattr(step, "absorb"), "gathering steps have no place in the pipeline so far"
        steps.append(PlannedStep(statement, step))
        schema = step.schema
    if mistakes:
        if hint:
            first = mistakes[0]
            mistakes[0] = Mistake(first.message, f"{hint}\n{first.advice}", first.place)
        wrong_anyway = all(code is ExitCode.WRONG_FOR_ANY_EXTRACT for code in codes)
        raise Refusal(mistakes, ExitCode.WRONG_FOR_ANY_EXTRACT if wrong_anyway else ExitCode.ANSWER_IS_NO)
    return Plan(tuple(steps), schema)
