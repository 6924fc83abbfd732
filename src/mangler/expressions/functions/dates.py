"""Functions on dates, times and timestamps."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.function import CLOCK, DAY, INTEGER, TEXT, Argument, Function, Parameter
from mangler.expressions.value import Bound, Frame, Value, failing
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.patterns import flags_of
from mangler.language.mistake import wrong_recipe
from mangler.language.source import SourceSpan
from mangler.table.schema import ValueType

MOST_DAYS = 4_000_000
"""About ten thousand years."""
CALENDAR = (-719_162, 2_932_896)
"""The years 1 to 9999, in days since 1970-01-01."""


def _field(
    name: str,
    accepts: frozenset[ValueType],
    work: Callable[[ColumnArray], Any],
    meaning: str,
    *examples: tuple[str, str],
) -> Function:
    def evaluate(arguments: Sequence[Argument], frame: Frame) -> Value:
        return Value(pc.cast(work(Value(arguments[0]).array(frame.count)), pa.int64()))

    what = "date" if accepts == DAY else "time"
    return Function(name, (Parameter(what, accepts),), ValueType.INTEGER, meaning, examples, evaluate)


def _weekday(array: ColumnArray) -> ColumnArray:
    return pc.day_of_week(array, count_from_zero=False, week_start=1)


def _format(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    date, form = arguments
    if not isinstance(form.literal, str):
        raise wrong_recipe(
            "wrong-argument",
            "the form of a date is a text written here",
            'Write format_date(d, "%d/%m/%Y").',
            form.span,
        )
    problem = _unknown_directive(form.literal)
    if problem:
        raise wrong_recipe(
            "not-a-date-form",
            f'"{problem}" is not a part of a date\'s form',
            f"Known are {', '.join(DIRECTIVES)} and %% for a percent sign.",
            form.span,
        )
    if "%" not in form.literal:
        raise wrong_recipe(
            "not-a-date-form",
            "this form has no part of a date",
            f'Each part is behind a %: format_date({date.span.text}, "%d/%m/%Y").',
            form.span,
        )

    def evaluate(frame: Frame) -> Value:
        value = date.evaluate(frame)
        return Value(formatted(value.array(frame.count), form.literal), value.failures)

    return Bound(ValueType.TEXT, evaluate, span)


DIRECTIVES = (
    "%Y",
    "%y",
    "%m",
    "%d",
    "%H",
    "%I",
    "%M",
    "%S",
    "%p",
    "%j",
    "%a",
    "%A",
    "%b",
    "%B",
    "%V",
    "%G",
    "%u",
)


def _unknown_directive(form: str) -> str:
    offset = form.find("%")
    while offset >= 0:
        directive = form[offset : offset + 2]
        if directive != "%%" and directive not in DIRECTIVES:
            return directive
        offset = form.find("%", offset + 2)
    return ""


def formatted(array: ColumnArray, form: str) -> ColumnArray:
    """Once a distinct value; seconds are whole, as a clock shows them."""
    encoded = as_dictionary(array)
    moments = encoded.dictionary.cast(pa.timestamp("us")).cast(pa.timestamp("s"), safe=False)
    return pc.strftime(moments, format=form, locale="C").take(encoded.indices)


def _days_between(arguments: Sequence[Argument], frame: Frame) -> Value:
    one, other = (_day(Value(argument).array(frame.count)) for argument in arguments)
    return Value(pc.subtract(pc.cast(other, pa.int64()), pc.cast(one, pa.int64())))


def _day(array: ColumnArray) -> ColumnArray:
    """Days since 1970-01-01."""
    dates = (
        array if pa.types.is_date(array.type) else pc.cast(pc.floor_temporal(array, unit="day"), pa.date32())
    )
    return pc.cast(dates, pa.int32())


def _add_days(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    date, days = arguments

    def evaluate(frame: Frame) -> Value:
        value, count = date.evaluate(frame), days.evaluate(frame)
        array, numbers = value.array(frame.count), count.array(frame.count)
        added = np.asarray(numbers.fill_null(0))
        there = flags_of(pc.and_(array.is_valid(), numbers.is_valid()))
        now = np.asarray(_day(array).fill_null(0)).astype(np.int64)
        beyond = np.abs(added) > MOST_DAYS
        moved = now + np.where(beyond, 0, added)
        beyond |= (moved < CALENDAR[0]) | (moved > CALENDAR[1])
        failed = beyond & there
        mask = failed | ~there
        if pa.types.is_date(array.type):
            out = from_numpy(np.where(mask, 0, moved).astype(np.int32), pa.date32(), mask)
        else:
            stamp = (
                np.asarray(array.cast(pa.int64()).fill_null(0)) + np.where(mask, 0, added) * 86_400_000_000
            )
            out = from_numpy(stamp, pa.timestamp("us"), mask)
        failures = value.failures + count.failures
        return Value(out, failures + failing(failed, "the day lies outside the years 1 to 9999"))

    return Bound(date.kind or ValueType.DATE, evaluate, span)


D = 'date("2026-05-04")'
T = 'timestamp("2026-05-04 09:30")'
FUNCTIONS = (
    _field("year", DAY, pc.year, "The year.", (f"year({D})", "2026")),
    _field("month", DAY, pc.month, "The month, 1 to 12.", (f"month({D})", "5")),
    _field("day", DAY, pc.day, "The day of the month.", (f"day({D})", "4")),
    _field("hour", CLOCK, pc.hour, "The hour, 0 to 23.", (f"hour({T})", "9")),
    _field("minute", CLOCK, pc.minute, "The minute, 0 to 59.", (f"minute({T})", "30")),
    _field(
        "weekday",
        DAY,
        _weekday,
        "The day of the week as ISO 8601 has it: 1 is Monday, 7 Sunday.",
        (f"weekday({D})", "1"),
    ),
    Function(
        "format_date",
        (Parameter("date", DAY), Parameter("form", TEXT)),
        ValueType.TEXT,
        f"The date as a text of this form: {', '.join(DIRECTIVES)}, as POSIX has them; names are English.",
        ((f'format_date({D}, "%d/%m/%Y")', "04/05/2026"), (f'format_date({T}, "%a %H:%M")', '"Mon 09:30"')),
        bind=_format,
    ),
    Function(
        "days_between",
        (Parameter("from", DAY), Parameter("to", DAY)),
        ValueType.INTEGER,
        "How many days later the second date is; negative where it is earlier. Times of the day do not count.",
        ((f'days_between({D}, date("2026-05-11"))', "7"),),
        _days_between,
    ),
    Function(
        "add_days",
        (Parameter("date", DAY), Parameter("days", INTEGER)),
        ValueType.DATE,
        "The date so many days later, or earlier with a negative number.",
        ((f"add_days({D}, 30)", "2026-06-03"),),
        bind=_add_days,
    ),
)
