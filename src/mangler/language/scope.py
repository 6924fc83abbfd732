"""The names that a statement's expressions may use besides columns and built-in functions."""

from __future__ import annotations

from dataclasses import field
from datetime import date
from typing import TypeAlias

from mangler.language.expression import Expression
from mangler.language.literals import Number, Text, Truth
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass

Literal: TypeAlias = Text | Number | Truth


LATER = frozenset(
    {
        *("stddev", "variance", "quantile", "previous", "next", "running", "rank"),
        *(
            "add_months",
            "add_minutes",
            "months_between",
            "minutes_between",
            "first_day",
            "last_day",
            "truncate_to",
        ),
        *("run_date", "seconds_in", "keyed_hash", "json_at", "json_list"),
    }
)
"""Functions that came after the first recipes: a recipe that defines one of its own by such a name goes on using it."""


@dataclass(frozen=True)
class Definition:
    """A function of a recipe: `define tidy(x) = upper(trim(x))`.

    Its body sees its parameters and the functions of `scope`.
    """

    name: str
    parameters: tuple[str, ...]
    body: Expression
    span: SourceSpan
    scope: Scope


@dataclass(frozen=True)
class Secret:
    """A value that no summary, message, history or report shows."""

    variable: str
    value: str = field(repr=False)


@dataclass(eq=False)
class Scope:
    """The parameters and functions of one recipe file. Functions of an imported file carry its prefix."""

    parameters: dict[str, Literal] = field(default_factory=dict)
    secrets: dict[str, Secret] = field(default_factory=dict)
    """Parameters from the environment, which are never shown."""
    run_date: date | None = None
    """The day of the run; None: today."""
    functions: dict[str, Definition] = field(default_factory=dict)


NO_NAMES = Scope()
