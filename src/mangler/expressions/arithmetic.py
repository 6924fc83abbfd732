"""Arithmetic: exact on integers and decimals, where a result that does not fit is a failure of its row."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal
from typing import Any, TypeAlias

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.scope import describe, wrong_type
from mangler.expressions.value import Bound, Failure, Frame, Value, cast_to, failing, places_of, widen
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.values.convert import DECIMAL, MOST_PLACES, cast_exactly
from mangler.language.mistake import wrong_recipe
from mangler.language.source import SourceSpan
from mangler.table.schema import ValueType
from mangler.table.types import ARROW, NUMERIC

DATES = (ValueType.DATE, ValueType.TIME, ValueType.TIMESTAMP)
OVERFLOW = "the result has more than 64 bits"
TOO_LONG = "the result has more than 9 places, or more than 29 digits before the point"
TOO_SMALL = "the result is too small for a float: it would be 0"
BY_ZERO = "division by zero"
LARGEST = 2**63 - 1
LARGE = pa.scalar(Decimal(10**28), DECIMAL)


Step: TypeAlias = Callable[[Value, Frame], Value]
"""What an operator and its right operand make of the value on the left."""


def bind_arithmetic(operator: str, left: Bound, right: Bound, span: SourceSpan) -> Bound:
    kind, step = arithmetic_step(operator, left, right, span)
    places = result_places(operator, kind, left, right)
    return Bound(kind, lambda frame: step(left.evaluate(frame), frame), span, places=places)


def result_places(operator: str, kind: ValueType, left: Bound, right: Bound) -> int | None:
    """Sums and differences keep the most places of either, products the sum of both."""
    if kind is not ValueType.DECIMAL:
        return None
    one, other = places_of(left), places_of(right)
    if left.kind is None or right.kind is None or one is None or other is None:
        return None
    places = one + other if operator == "*" else max(one, other)
    return places if places <= MOST_PLACES else None


def arithmetic_step(operator: str, left: Bound, right: Bound, span: SourceSpan) -> tuple[ValueType, Step]:
    """The type of the result, and the work on the left operand's value."""
    for operand in (left, right):
        if operand.kind is not None and operand.kind not in NUMERIC:
            raise _not_numbers(operator, left, right, operand, span)
    kinds = {operand.kind for operand in (left, right)} - {None}
    if operator == "/" or ValueType.FLOAT in kinds:
        kind = ValueType.FLOAT
    else:
        kind = ValueType.DECIMAL if ValueType.DECIMAL in kinds else ValueType.INTEGER
    if operator == "%" and kind is not ValueType.INTEGER:
        wrong = next(operand for operand in (left, right) if operand.kind is not ValueType.INTEGER)
        raise wrong_type("%", wrong, "whole numbers")
    right, target = cast_to(right, kind), ARROW[kind]
    work = WORK[kind][operator]

    def step(one: Value, frame: Frame) -> Value:
        other = right.evaluate(frame)
        widened = Value(widen(one.data, target)).array(frame.count)
        out, failures = work(widened, other.array(frame.count))
        return Value(out, one.failures + other.failures + failures)

    return kind, step


def bind_minus(operand: Bound, span: SourceSpan) -> Bound:
    if operand.kind is not None and operand.kind not in NUMERIC:
        raise wrong_type("-", operand, "numbers")
    zero = Bound(ValueType.INTEGER, lambda _: Value(pa.scalar(0, pa.int64())), span, 0)
    return bind_arithmetic("-", zero, operand, span)


def _not_numbers(operator: str, left: Bound, right: Bound, wrong: Bound, span: SourceSpan) -> Exception:
    if operator == "+" and ValueType.TEXT in (left.kind, right.kind):
        holes = "".join(
            operand.literal if isinstance(operand.literal, str) else f"{{{operand.span.text}}}"
            for operand in (left, right)
        )
        messages = [f"{operand.span.text} is {describe(operand.kind)}" for operand in (left, right)]
        return wrong_recipe(
            "wrong-type",
            f"+ adds numbers, and {messages[0] if left.kind is ValueType.TEXT else messages[1]}",
            f'Texts are put together with holes: "{holes}". To add, convert first: integer({wrong.span.text}).',
            span,
        )
    if wrong.kind in DATES and operator in "+-":
        form = _on_dates(operator, left, right)
        return wrong_recipe(
            "wrong-type",
            f"{operator} works on numbers, and {wrong.span.text} is {describe(wrong.kind)}",
            f"Write {form}.",
            span,
        )
    return wrong_type(operator, wrong, "numbers")


def _on_dates(operator: str, left: Bound, right: Bound) -> str:
    """The call that adds days to a date, or counts those between two, with what is there as its arguments."""
    one, other = left.span.text, right.span.text
    if left.kind in DATES and right.kind in DATES:
        return f"days_between({other}, {one})"
    if left.kind in DATES:
        return f"add_days({one}, {'-' if operator == '-' else ''}{other})"
    return f"add_days({other}, {one})"


Outcome = tuple[ColumnArray, tuple[Failure, ...]]


def _integers(array: ColumnArray) -> ColumnArray:
    return np.asarray(array.fill_null(0) if array.null_count else array)


def _valid(one: ColumnArray, other: ColumnArray) -> ColumnArray:
    """Rows where both are there, or None when all are."""
    if not one.null_count and not other.null_count:
        return None
    return np.asarray(pc.and_(one.is_valid(), other.is_valid()))


def _finished(out: ColumnArray, valid: ColumnArray, failed: ColumnArray, reason: str) -> Outcome:
    if valid is not None:
        failed = failed & valid
    bad = failed if valid is None else failed | ~valid
    return from_numpy(out, nulls=bad), failing(failed, reason)


def _add(one: ColumnArray, other: ColumnArray) -> Outcome:
    a, b = _integers(one), _integers(other)
    out = a + b
    return _finished(out, _valid(one, other), ((a ^ out) & (b ^ out)) < 0, OVERFLOW)


def _subtract(one: ColumnArray, other: ColumnArray) -> Outcome:
    a, b = _integers(one), _integers(other)
    out = a - b
    return _finished(out, _valid(one, other), ((a ^ b) & (a ^ out)) < 0, OVERFLOW)


def _multiply(one: ColumnArray, other: ColumnArray) -> Outcome:
    a, b = _integers(one), _integers(other)
    out = a * b
    failed = np.zeros(len(a), np.bool_)
    if len(a) and _largest(a) * _largest(b) > LARGEST:  # else none can overflow
        divisor = np.where(b == 0, 1, b)
        least = np.iinfo(np.int64).min
        special = ((a == least) & (b == -1)) | ((b == least) & (a == -1))
        safe = np.where(divisor == -1, 1, divisor)
        failed = special | ((b != 0) & (b != -1) & (out // safe != a))
    return _finished(out, _valid(one, other), failed, OVERFLOW)


def _largest(numbers: ColumnArray) -> int:
    return max(abs(int(numbers.min())), abs(int(numbers.max())))


def _remainder(one: ColumnArray, other: ColumnArray) -> Outcome:
    """What is left of the division that rounds down: its sign is the divisor's."""
    a, b = _integers(one), _integers(other)
    zero = b == 0
    safe = np.where(zero | (b == -1), 1, b)
    return _finished(np.where(b == -1, 0, np.remainder(a, safe)), _valid(one, other), zero, BY_ZERO)


def _divide(one: ColumnArray, other: ColumnArray) -> Outcome:
    zero = flags_of(pc.equal(other, 0.0)) & flags_of(one.is_valid())
    divisor = pc.if_else(from_numpy(zero), None, other) if zero.any() else other
    out, failures = _finite(pc.divide(one, divisor))
    lost = flags_of(pc.equal(out, 0.0)) & flags_of(pc.not_equal(one, 0.0))
    out, too_small = _without(out, lost, TOO_SMALL)
    return out, failing(zero, BY_ZERO) + failures + too_small


def _finite(out: ColumnArray) -> Outcome:
    """A float result that is too large is a failure, not an infinity."""
    failed = flags_of(pc.invert(pc.is_finite(out)))
    failed &= flags_of(out.is_valid())
    return _without(out, failed, "the result is too large")


def _without(out: ColumnArray, failed: ColumnArray, reason: str) -> Outcome:
    """The results, null where the computation failed, and the failures."""
    return (pc.if_else(from_numpy(failed), None, out) if failed.any() else out), failing(failed, reason)


def _of_floats(
    work: Callable[[ColumnArray, ColumnArray], Any],
) -> Callable[[ColumnArray, ColumnArray], Outcome]:
    return lambda one, other: _finite(work(one, other))


def _multiply_floats(one: ColumnArray, other: ColumnArray) -> Outcome:
    """A product is 0 only where a factor is: one that is nearer to 0 than any other float is a failure."""
    out, failures = _finite(pc.multiply(one, other))
    lost = (
        flags_of(pc.equal(out, 0.0)) & flags_of(pc.not_equal(one, 0.0)) & flags_of(pc.not_equal(other, 0.0))
    )
    out, too_small = _without(out, lost, TOO_SMALL)
    return out, failures + too_small


def _of_decimals(
    work: Callable[[ColumnArray, ColumnArray], Any],
) -> Callable[[ColumnArray, ColumnArray], Outcome]:
    wide = pa.decimal256(38, 9)

    def evaluate(one: ColumnArray, other: ColumnArray) -> Outcome:
        done = cast_exactly(work(pc.cast(one, wide), pc.cast(other, wide)), DECIMAL)
        return done.array, failing(done.failed, TOO_LONG)

    return evaluate


def _multiply_decimals(one: ColumnArray, other: ColumnArray) -> Outcome:
    """Exact. Arrow multiplies 38 digits by 37: a factor with more comes first, and two of these are too long."""
    large, too = (flags_of(pc.greater_equal(pc.abs(factor), LARGE)) for factor in (one, other))
    both = large & too
    if too.any():
        swap, neither = pa.array(too & ~both), pa.array(both)
        one, other = pc.if_else(swap, other, one), pc.if_else(swap, one, other)
        one, other = pc.if_else(neither, None, one), pc.if_else(neither, None, other)
    product = pc.multiply(pc.cast(one, pa.decimal256(38, 9)), pc.cast(other, pa.decimal256(37, 9)))
    done = cast_exactly(product, DECIMAL)
    return done.array, failing(done.failed | both, TOO_LONG)


WORK: dict[ValueType, dict[str, Callable[[ColumnArray, ColumnArray], Outcome]]] = {
    ValueType.INTEGER: {"+": _add, "-": _subtract, "*": _multiply, "%": _remainder},
    ValueType.FLOAT: {
        "+": _of_floats(pc.add),
        "-": _of_floats(pc.subtract),
        "*": _multiply_floats,
        "/": _divide,
    },
    ValueType.DECIMAL: {
        "+": _of_decimals(pc.add),
        "-": _of_decimals(pc.subtract),
        "*": _multiply_decimals,
    },
}
