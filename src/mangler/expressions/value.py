"""What a bound expression is, and what it gives for the rows of a batch."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import field
from decimal import Decimal
from typing import Any, TypeAlias

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.reasons import Reason, reason_of
from mangler.kernels.arrow import ArrowType, ColumnArray, from_numpy
from mangler.kernels.text.text_view import Flags
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass
from mangler.table.batch import RowNumbers
from mangler.table.schema import ValueType
from mangler.table.types import ARROW

Kind: TypeAlias = ValueType | None
"""A type of values; None is that of `null`, which is of any."""


PLACED_PRECISION = 37
"""Digits of a decimal with stated places."""


@dataclass(frozen=True)
class Frame:
    """The rows that an expression is evaluated over. `cell` is the column that `change` is at."""

    columns: Mapping[str, Any]
    rows: RowNumbers
    file: str = ""
    cell: Any = None
    known: dict[int, Value] = field(default_factory=dict)
    """Values of arguments that a definition uses more than once."""

    @property
    def count(self) -> int:
        return len(self.rows)


@dataclass(frozen=True)
class Failure:
    """Rows whose value cannot be made, and why: the same for all, or reported row by row."""

    flags: Flags
    reason: Reason

    def why(self, index: int) -> str:
        return reason_of(self.reason, index)


@dataclass(frozen=True)
class Value:
    """An Arrow array with one value per row, or a scalar for all; null where a row failed."""

    data: ColumnArray
    failures: tuple[Failure, ...] = ()

    def array(self, count: int) -> Any:
        return pa.repeat(self.data, count) if isinstance(self.data, pa.Scalar) else self.data

    def settled(self, count: int) -> Any:
        """The array with null for every row that failed, also where an `or` made something of it."""
        array = self.array(count)
        if not self.failures:
            return array
        flags = np.zeros(count, np.bool_)
        for failure in self.failures:
            flags |= failure.flags
        return pc.if_else(from_numpy(flags), pa.scalar(None, array.type), array)


@dataclass(frozen=True)
class Bound:
    """An expression bound to columns: its type is known, and its places in the recipe."""

    kind: Kind
    evaluate: Callable[[Frame], Value]
    span: SourceSpan
    literal: Any = None
    """The value itself where it is written in the recipe; else None."""
    places: int | None = None
    """Of decimals: how many are kept and written; None where that is not stated."""

    @property
    def is_literal(self) -> bool:
        return self.literal is not None

    @property
    def is_null(self) -> bool:
        return self.kind is None


def constant(value: Any, kind: Kind, span: SourceSpan) -> Bound:
    scalar = pa.scalar(value, pa.null() if kind is None else ARROW[kind])
    return Bound(kind, lambda _: Value(scalar), span, value, places_of_literal(value))


def places_of_literal(value: Any) -> int | None:
    """The places that a decimal is written with."""
    exponent = value.as_tuple().exponent if isinstance(value, Decimal) else None
    return -exponent if isinstance(exponent, int) and exponent <= 0 else None


def stated_places(stored: ArrowType) -> int | None:
    """The places of a column that is written in this type."""
    return int(stored.scale) if stored is not None and pa.types.is_decimal(stored) else None


def places_of(bound: Bound) -> int | None:
    """The places of a number, where they are stated; a whole number has none."""
    return 0 if bound.kind is ValueType.INTEGER else bound.places


def most_places(bounds: Iterable[Bound]) -> int | None:
    """The most places of some decimals; None where those of one are not stated. Null has none."""
    places = [places_of(bound) for bound in bounds if bound.kind is not None]
    known = [one for one in places if one is not None]
    return max(known) if known and len(known) == len(places) else None


def stored_in_places(bound: Bound, *literals: Any) -> ArrowType:
    """The type in which a column of such values is written, which may hold these too; None for the usual one."""
    if bound.kind is not ValueType.DECIMAL or bound.places is None:
        return None
    more = [places for literal in literals if (places := places_of_literal(literal)) is not None]
    return pa.decimal128(PLACED_PRECISION, max([bound.places, *more]))


def only_where(failures: Sequence[Failure], flags: Flags) -> tuple[Failure, ...]:
    """Failures of rows that the value is asked for; a branch that is not taken never fails."""
    limited = (Failure(failure.flags & flags, failure.reason) for failure in failures)
    return tuple(failure for failure in limited if failure.flags.any())


def failing(flags: Flags, reason: Reason) -> tuple[Failure, ...]:
    return (Failure(flags, reason),) if flags.any() else ()


def cast_to(bound: Bound, kind: Kind) -> Bound:
    """The same value in a type that holds all its values: an integer as decimal or float, null as anything."""
    if bound.kind is kind or kind is None:
        return bound
    target = ARROW[kind]

    def evaluate(frame: Frame) -> Value:
        value = bound.evaluate(frame)
        return Value(widen(value.data, target), value.failures)

    return Bound(
        kind, evaluate, bound.span, bound.literal, places_of(bound) if kind is ValueType.DECIMAL else None
    )


def widen(data: ColumnArray, target: Any) -> Any:
    if data.type == target:
        return data
    if pa.types.is_null(data.type):
        return pa.scalar(None, target) if isinstance(data, pa.Scalar) else pa.nulls(len(data), target)
    if pa.types.is_decimal(target) and pa.types.is_integer(data.type):
        return pc.cast(pc.cast(data, pa.decimal128(19, 0)), target)
    return pc.cast(data, target, safe=not pa.types.is_floating(target))  # a float is the nearest there is
