"""The names that a statement's expressions may use besides columns and built-in functions."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TypeAlias

from mangler.language.expression import Expression
from mangler.language.literals import Number, Text, Truth
from mangler.language.source import SourceSpan

Literal: TypeAlias = Text | Number | Truth


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


@dataclass(eq=False)
class Scope:
    """The parameters and functions of one recipe file. Functions of an imported file carry its prefix."""

    parameters: dict[str, Literal] = field(default_factory=dict)
    functions: dict[str, Definition] = field(default_factory=dict)


NO_NAMES = Scope()
