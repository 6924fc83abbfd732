"""Expressions: their tree, as the parser makes it of a recipe's text.

A word is an operator only where an operator can be, so columns may be called `and` or `between`; only
`if not true false null` are reserved. Types are no matter here: an expression is checked when it is bound.
"""

from __future__ import annotations

from dataclasses import field
from typing import TypeAlias

from mangler.language.columns import ColumnSelector
from mangler.language.literals import Number, Template, Text, Truth
from mangler.language.patterns import Pattern
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass

RESERVED = ("if", "not", "true", "false", "null")
AGGREGATES = (
    *("count", "sum", "mean", "median", "min", "max", "first", "last", "join", "list"),
    *("stddev", "variance", "quantile"),
)
MOMENT_CALLS = ("date", "time", "timestamp")
"""Functions that take forms, and a language for the names in them."""
WINDOW_CALLS = {
    "previous": "previous(x [, n])",
    "next": "next(x [, n])",
    "running": "running(sum(x))",
    "rank": "rank()",
}
"""What a row asks of the rows beside it in its group, besides aggregates."""
KINDS_OF_VALUE = (
    "null",
    "blank",
    "text",
    "integer",
    "float",
    "decimal",
    "boolean",
    "date",
    "time",
    "timestamp",
)


@dataclass(frozen=True)
class Column:
    name: str
    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Call:
    """A function, or an aggregate with its `distinct` and `sorted by`."""

    function: str
    arguments: tuple[Expression, ...]
    span: SourceSpan = field(compare=False, repr=False)
    distinct: bool = False
    sorted_by: Expression | None = None
    descending: bool = False
    where: Expression | None = None
    """The condition of `count(where …)`."""
    language: Text | None = None
    """The tag of `date(x, form, language "de")`."""


@dataclass(frozen=True)
class Operation:
    """`or and = != < <= > >= contains, starts with, ends with, + - * / %`; one operand: `not`, `-`."""

    operator: str
    operands: tuple[Expression, ...]
    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Chain:
    """Three operands or more with operators of one rank, `a or b or c`, `a + b - c`, worked out from the left.

    Flat, so that a list of thousands that a program wrote is no deeper than a short one.
    """

    first: Expression
    links: tuple[tuple[str, Expression], ...]
    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Choice:
    """`if condition then value else other`; `else if` adds an arm, a pair of condition and value."""

    arms: tuple[tuple[Expression, Expression], ...]
    other: Expression
    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Membership:
    """`subject in (choices)`."""

    subject: Expression
    choices: tuple[Expression, ...]
    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Between:
    subject: Expression
    low: Expression
    high: Expression
    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Kindness:
    """`subject is null`, `is blank`, `is integer`: would it convert."""

    subject: Expression
    kind: str
    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Each:
    """The column that `all of` or `any of` is at, in its test."""

    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class Several:
    """`all of (columns) test`, `any of (columns) test`: the test has Each in the place of the column."""

    every: bool
    columns: ColumnSelector
    test: Expression
    span: SourceSpan = field(compare=False, repr=False)


Expression: TypeAlias = (
    Text
    | Template
    | Number
    | Truth
    | Pattern
    | Column
    | Call
    | Operation
    | Chain
    | Choice
    | Membership
    | Between
    | Kindness
    | Each
    | Several
)
