"""Functions on numbers."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.function import ANY, INTEGER, LIST, NUMBER, Function, Parameter
from mangler.expressions.operators import common_kind
from mangler.expressions.value import Bound, Failure, Frame, Value, cast_to, failing
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.values.convert import Converted, cast_exactly
from mangler.language.mistake import wrong_recipe
from mangler.language.source import SourceSpan
from mangler.table.schema import ValueType

ORDERED = ANY - LIST - {ValueType.BOOLEAN}
NUMBER_PARAMETER = Parameter("number", NUMBER)
TOO_LARGE = "the result has more than 64 bits"
ROOMY = pa.decimal256(50, 9)
"""Exact numbers with room for whatever rounding makes of them."""


def _round(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    number = arguments[0]
    places = 0
    if len(arguments) > 1:
        if not isinstance(arguments[1].literal, int):
            raise wrong_recipe(
                "wrong-argument",
                "the places of round are a number written here",
                "Write round(x, 1).",
                arguments[1].span,
            )
        places = max(-18, min(9, arguments[1].literal))
    if len(arguments) == 1 and number.kind is not ValueType.INTEGER:
        return _to_whole(number, lambda data: _half_away(data, 0), span)

    def evaluate(frame: Frame) -> Value:
        value = number.evaluate(frame)
        array = value.array(frame.count)
        if pa.types.is_integer(array.type) and places >= 0:
            return value
        return _guarded(array, lambda part: _half_away(part, places), value.failures)

    kept = max(places, 0) if number.kind is ValueType.DECIMAL else None
    return Bound(number.kind, evaluate, span, places=kept)


def _half_away(data: ColumnArray, places: int) -> ColumnArray:
    return pc.round(data, places, round_mode="half_towards_infinity")


def _guarded(array: ColumnArray, work: Callable[[ColumnArray], Any], failures: tuple[Failure, ...]) -> Value:
    """Work on exact numbers whose result may be larger than they can be."""
    if pa.types.is_floating(array.type):
        return Value(work(array), failures)
    exact = pc.cast(array, pa.decimal128(19, 0)) if pa.types.is_integer(array.type) else array
    done = cast_exactly(work(pc.cast(exact, ROOMY)), array.type)
    return Value(done.array, failures + failing(done.failed, TOO_LARGE))


def _to_whole(number: Bound, work: Callable[[ColumnArray], Any], span: SourceSpan) -> Bound:
    """Work that gives whole numbers, as integers."""

    def evaluate(frame: Frame) -> Value:
        value = number.evaluate(frame)
        array = value.array(frame.count)
        if pa.types.is_integer(array.type):
            return value
        if pa.types.is_floating(array.type):
            whole = work(array)
            fits = flags_of(pc.less(pc.abs(whole), 2.0**63))
            done = Converted(
                pc.cast(pc.if_else(from_numpy(fits), whole, None), pa.int64()),
                ~fits & flags_of(whole.is_valid()),
            )
        else:
            done = cast_exactly(work(pc.cast(array, ROOMY)), pa.int64())
        return Value(done.array, value.failures + failing(done.failed, TOO_LARGE))

    return Bound(ValueType.INTEGER, evaluate, span)


def _floor(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    return _to_whole(arguments[0], pc.floor, span)


def _ceil(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    return _to_whole(arguments[0], pc.ceil, span)


def _abs(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    number = arguments[0]

    def evaluate(frame: Frame) -> Value:
        value = number.evaluate(frame)
        return _guarded(value.array(frame.count), pc.abs_checked, value.failures)

    return Bound(number.kind, evaluate, span)


def _extreme(name: str, work: Callable[..., Any]) -> Callable[[Sequence[Bound], SourceSpan], Bound]:
    """Of several values that have an order; null is skipped."""

    def bind(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
        kind = common_kind(arguments, span, name) or ValueType.INTEGER
        values = [cast_to(argument, kind) for argument in arguments]

        def evaluate(frame: Frame) -> Value:
            done = [one.evaluate(frame) for one in values]
            failures = tuple(failure for value in done for failure in value.failures)
            return Value(work(*(value.array(frame.count) for value in done)), failures)

        return Bound(kind, evaluate, span)

    return bind


FUNCTIONS = (
    Function(
        "round",
        (NUMBER_PARAMETER, Parameter("places", INTEGER, optional=True)),
        ValueType.INTEGER,
        "The number rounded, halves away from zero: to a whole number, or to so many places.",
        (
            ("round(2.5)", "3"),
            ("round(-2.5)", "-3"),
            ("round(1221.55, 1)", "1221.6"),
            ("round(1221, -2)", "1200"),
        ),
        bind=_round,
    ),
    Function(
        "floor",
        (NUMBER_PARAMETER,),
        ValueType.INTEGER,
        "The largest whole number that is not above the number.",
        (("floor(-2.5)", "-3"),),
        bind=_floor,
    ),
    Function(
        "ceil",
        (NUMBER_PARAMETER,),
        ValueType.INTEGER,
        "The smallest whole number that is not below the number.",
        (("ceil(2.1)", "3"),),
        bind=_ceil,
    ),
    Function(
        "abs",
        (NUMBER_PARAMETER,),
        ValueType.INTEGER,
        "The number without its sign.",
        (("abs(-3)", "3"),),
        bind=_abs,
    ),
    Function(
        "least",
        (Parameter("value", ORDERED, repeated=True),),
        ValueType.INTEGER,
        "The smallest of several numbers, the earliest of dates or times, or the first of texts by code point. Nulls"
        " are skipped.",
        (("least(3, 1, null)", "1"), ('least(date("2026-05-11"), date("2026-05-04"))', "2026-05-04")),
        bind=_extreme("least", pc.min_element_wise),
    ),
    Function(
        "greatest",
        (Parameter("value", ORDERED, repeated=True),),
        ValueType.INTEGER,
        "The largest of several numbers, the latest of dates or times, or the last of texts by code point. Nulls are"
        " skipped.",
        (("greatest(3, 1.5)", "3"), ('greatest("ash", "shino")', "shino")),
        bind=_extreme("greatest", pc.max_element_wise),
    ),
)
