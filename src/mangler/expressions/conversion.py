"""Values as another type: `integer(peak_c)`, `text(made)`, and the tests `is integer` and its like."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.reasons import ByCell, Reason
from mangler.expressions.scope import describe, way_out
from mangler.expressions.value import Bound, Frame, Value, failing, widen
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.values.convert import DECIMAL, Converted, cast_exactly, to_decimal
from mangler.kernels.values.format_values import format_values
from mangler.language.mistake import wrong_recipe
from mangler.language.source import SourceSpan
from mangler.table.schema import ValueType
from mangler.table.types import ARROW, NUMERIC, from_text

ARTICLE = {"integer": "an"}


def bind_conversion(kind: ValueType, argument: Bound, span: SourceSpan) -> Bound:
    """The argument as a value of this type. What does not convert is a failure of its row."""
    source = argument.kind
    if source is kind:
        return argument
    work = converter(source, kind)
    if work is None:
        raise wrong_recipe(
            "no-conversion",
            f"{describe(source)} has no way to {kind}",
            _way(argument, kind),
            span,
        )

    def evaluate(frame: Frame) -> Value:
        value = argument.evaluate(frame)
        if isinstance(value.data, pa.Scalar) and not value.data.is_valid:
            return Value(pa.scalar(None, ARROW[kind]), value.failures)
        array = value.array(frame.count)
        done = work(array)
        failures = value.failures
        if done.failed.any():
            failures += failing(done.failed, is_not(array, kind))
        return Value(done.array, failures)

    return Bound(kind, evaluate, span)


def _way(argument: Bound, kind: ValueType) -> str:
    """What can be done where values have no way to a type."""
    if argument.kind is ValueType.LIST:
        return 'A list becomes a text with joined(list, ", ").'
    wanted = {
        ValueType.LIST: "lists",
        ValueType.DATE: "dates",
        ValueType.TIMESTAMP: "dates",
        ValueType.TIME: "times",
    }
    return way_out(argument, "numbers" if kind in NUMERIC else wanted.get(kind, "other values"))


def is_not(array: ColumnArray, kind: ValueType) -> Reason:
    """`"tbc" is not an integer`, for each row its own value."""
    article = "an" if kind is ValueType.INTEGER else "a"
    return ByCell(array, lambda text: f'"{shortened(text)}" is not {article} {kind}')


def shortened(value: str) -> str:
    """A value as part of a sentence."""
    return value if len(value) <= 24 else f"{value[:14]}…{value[-8:]}"


def converter(source: ValueType | None, kind: ValueType) -> Callable[[ColumnArray], Converted] | None:
    """How values of one type become those of another, in the forms that need no saying; None where there is no way."""
    if source is None:
        return lambda array: _never_failing(pa.nulls(len(array), ARROW[kind]))
    if kind is ValueType.LIST or source is ValueType.LIST:
        return None
    if kind is ValueType.TEXT:
        return lambda array: _never_failing(format_values(array))
    if source is ValueType.TEXT:
        return lambda array: from_text(array, kind)
    if source in NUMERIC and kind in NUMERIC:
        return {
            ValueType.INTEGER: _to_integer,
            ValueType.FLOAT: lambda array: _never_failing(widen(array, pa.float64())),
            ValueType.DECIMAL: _to_decimal,
        }[kind]
    if source is ValueType.TIMESTAMP and kind in (ValueType.DATE, ValueType.TIME):
        target = ARROW[kind]
        floor = pc.floor_temporal if kind is ValueType.DATE else None
        return lambda array: _never_failing(pc.cast(floor(array, unit="day") if floor else array, target))
    if source is ValueType.DATE and kind is ValueType.TIMESTAMP:
        return lambda array: _never_failing(pc.cast(array, pa.timestamp("us")))
    return None


def _never_failing(array: ColumnArray) -> Converted:
    return Converted(array, np.zeros(len(array), np.bool_))


def _to_integer(array: ColumnArray) -> Converted:
    """Only numbers without a fraction: nothing is rounded silently."""
    if pa.types.is_decimal(array.type):
        return cast_exactly(array, pa.int64())
    fits = flags_of(pc.and_(pc.equal(pc.floor(array), array), pc.less(pc.abs(array), 2.0**63)))
    failed = ~fits & flags_of(pc.is_valid(array))
    return Converted(pc.cast(pc.if_else(from_numpy(fits), array, None), pa.int64()), failed)


def _to_decimal(array: ColumnArray) -> Converted:
    if pa.types.is_integer(array.type):
        return _never_failing(widen(array, DECIMAL))
    text = pc.if_else(pc.less(pc.abs(array), 1e15), pc.cast(array, pa.string()), "too large")
    return to_decimal(text)
