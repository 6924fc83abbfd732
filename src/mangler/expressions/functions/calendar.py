"""Functions that step through the calendar: months, minutes, the first and the last day of a period."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.function import CLOCK, DAY, INTEGER, TEXT, Function, Parameter
from mangler.expressions.functions.dates import CALENDAR
from mangler.expressions.scope import describe
from mangler.expressions.value import Bound, Frame, Value, failing
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.patterns import flags_of
from mangler.language.mistake import wrong_recipe
from mangler.language.source import SourceSpan
from mangler.table.schema import ValueType

Whole = npt.NDArray[np.int64]
DAY_LONG, MINUTE = 86_400_000_000, 60_000_000
"""Microseconds."""
MOST_MONTHS, MOST_MINUTES = 120_000, 6_000_000_000
OUTSIDE = "the day lies outside the years 1 to 9999"
PERIODS = ("week", "month", "quarter", "year")
UNITS = ("second", "minute", "hour", "day", *PERIODS)
STAMP = frozenset({ValueType.TIMESTAMP})


def _moments(array: ColumnArray) -> tuple[Whole, Whole]:
    """Days since 1970-01-01, and microseconds of the day; null counts as the first day."""
    if pa.types.is_date(array.type):
        days = np.asarray(array.cast(pa.int32()).fill_null(0)).astype(np.int64)
        return days, np.zeros(len(days), np.int64)
    stamps = np.asarray(array.cast(pa.timestamp("us")).cast(pa.int64()).fill_null(0))
    return stamps // DAY_LONG, stamps % DAY_LONG


def _months_later(days: Whole, months: Whole) -> Whole:
    """The same day so many months later; the last one of a month that is shorter."""
    dates = days.astype("datetime64[D]")
    first = dates.astype("datetime64[M]")
    day = (dates - first.astype("datetime64[D]")).astype(np.int64)
    there = first + months
    length = ((there + 1).astype("datetime64[D]") - there.astype("datetime64[D]")).astype(np.int64)
    later: Whole = there.astype("datetime64[D]").astype(np.int64) + np.minimum(day, length - 1)
    return later


def _built(array: ColumnArray, days: Whole, clock: Whole, bad: npt.NDArray[np.bool_]) -> ColumnArray:
    """Dates or timestamps, as the array that they come from has."""
    if pa.types.is_date(array.type):
        return from_numpy(np.where(bad, 0, days).astype(np.int32), pa.date32(), bad)
    return from_numpy(np.where(bad, 0, days * DAY_LONG + clock), pa.timestamp("us"), bad)


def _moved(
    arguments: Sequence[Bound], most: int, work: Callable[[Whole, Whole, Whole], tuple[Whole, Whole]]
) -> Callable[[Frame], Value]:
    """`work(days, clock, count)` gives the days and times that are so much later."""
    moment, amount = arguments

    def evaluate(frame: Frame) -> Value:
        value, counted = moment.evaluate(frame), amount.evaluate(frame)
        array, numbers = value.array(frame.count), counted.array(frame.count)
        there = flags_of(pc.and_(array.is_valid(), numbers.is_valid()))
        count = np.asarray(numbers.fill_null(0))
        beyond = (count > most) | (count < -most)
        days, clock = _moments(array)
        days, clock = work(days, clock, np.where(beyond, 0, count))
        beyond |= (days < CALENDAR[0]) | (days > CALENDAR[1])
        failed = beyond & there
        out = _built(array, days, clock, failed | ~there)
        return Value(out, value.failures + counted.failures + failing(failed, OUTSIDE))

    return evaluate


def _add_months(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    evaluate = _moved(arguments, MOST_MONTHS, lambda days, clock, count: (_months_later(days, count), clock))
    return Bound(arguments[0].kind or ValueType.DATE, evaluate, span)


def _add_minutes(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    def later(days: Whole, clock: Whole, count: Whole) -> tuple[Whole, Whole]:
        clock = clock + count * MINUTE
        return days + clock // DAY_LONG, clock % DAY_LONG

    return Bound(ValueType.TIMESTAMP, _moved(arguments, MOST_MINUTES, later), span)


def _between(
    arguments: Sequence[Bound], span: SourceSpan, work: Callable[[ColumnArray, ColumnArray], Whole]
) -> Bound:
    one, other = arguments

    def evaluate(frame: Frame) -> Value:
        first, second = one.evaluate(frame), other.evaluate(frame)
        a, b = first.array(frame.count), second.array(frame.count)
        there = flags_of(pc.and_(a.is_valid(), b.is_valid()))
        return Value(pa.array(work(a, b), mask=~there), first.failures + second.failures)

    return Bound(ValueType.INTEGER, evaluate, span)


def _months_between(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    def work(a: ColumnArray, b: ColumnArray) -> Whole:
        (days_a, clock_a), (days_b, clock_b) = _moments(a), _moments(b)
        back = (days_b < days_a) | ((days_b == days_a) & (clock_b < clock_a))
        early, late = np.where(back, days_b, days_a), np.where(back, days_a, days_b)
        clock_early, clock_late = np.where(back, clock_b, clock_a), np.where(back, clock_a, clock_b)
        months = (
            late.astype("datetime64[D]").astype("datetime64[M]")
            - early.astype("datetime64[D]").astype("datetime64[M]")
        ).astype(np.int64)
        reached = _months_later(early, months)
        months -= (reached > late) | ((reached == late) & (clock_early > clock_late))
        signed: Whole = np.where(back, -months, months)
        return signed

    return _between(arguments, span, work)


def _minutes_between(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    one, other = arguments
    if one.kind is not other.kind and None not in (one.kind, other.kind):
        raise wrong_recipe(
            "mixed-types",
            f"{one.span.text} is {describe(one.kind)}, and {other.span.text} is {describe(other.kind)}",
            "Both are times, or both timestamps.",
            span,
        )

    def work(a: ColumnArray, b: ColumnArray) -> Whole:
        first, second = (np.asarray(part.cast(pa.int64()).fill_null(0)) for part in (a, b))
        distance = second - first
        minutes: Whole = np.sign(distance) * (np.abs(distance) // MINUTE)
        return minutes

    return _between(arguments, span, work)


def _unit(argument: Bound, known: Sequence[str], example: str) -> str:
    if argument.literal in known:
        return str(argument.literal)
    listed = ", ".join(f'"{unit}"' for unit in known)
    raise wrong_recipe(
        "wrong-argument",
        f"{argument.span.text} is not a unit of time that can be here",
        f"Units are {listed}: {example}.",
        argument.span,
    )


def _starts(days: Whole, unit: str) -> Whole:
    """The first day of the period that each day lies in."""
    dates = days.astype("datetime64[D]")
    if unit == "week":
        return days - (days + 3) % 7
    if unit == "year":
        return dates.astype("datetime64[Y]").astype("datetime64[D]").astype(np.int64)
    months = dates.astype("datetime64[M]").astype(np.int64)
    if unit == "quarter":
        months -= months % 3
    return months.astype("datetime64[M]").astype("datetime64[D]").astype(np.int64)


def _ends(days: Whole, unit: str) -> Whole:
    first = _starts(days, unit)
    if unit == "week":
        return first + 6
    months = {"month": 1, "quarter": 3, "year": 12}[unit]
    return _months_later(first, np.full(len(first), months)) - 1


def _edge(work: Callable[[Whole, str], Whole], name: str) -> Callable[[Sequence[Bound], SourceSpan], Bound]:
    def bind(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
        date = arguments[0]
        unit = _unit(arguments[1], PERIODS, f'{name}({date.span.text}, "month")')

        def evaluate(frame: Frame) -> Value:
            value = date.evaluate(frame)
            array = value.array(frame.count)
            there = flags_of(array.is_valid())
            days = work(_moments(array)[0], unit)
            failed = there & ((days < CALENDAR[0]) | (days > CALENDAR[1]))
            bad = failed | ~there
            out = from_numpy(np.where(bad, 0, days).astype(np.int32), pa.date32(), bad)
            return Value(out, value.failures + failing(failed, OUTSIDE))

        return Bound(ValueType.DATE, evaluate, span)

    return bind


def _truncate(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
    moment = arguments[0]
    unit = _unit(arguments[1], UNITS, f'truncate_to({moment.span.text}, "hour")')
    sizes = {"second": 1_000_000, "minute": MINUTE, "hour": 60 * MINUTE}

    def evaluate(frame: Frame) -> Value:
        value = moment.evaluate(frame)
        array = value.array(frame.count)
        bad = ~flags_of(array.is_valid())
        days, clock = _moments(array)
        if unit in sizes:
            clock = clock - clock % sizes[unit]
        else:
            clock = np.zeros(len(days), np.int64)
            days = days if unit == "day" else _starts(days, unit)
        return Value(_built(array, days, clock, bad), value.failures)

    return Bound(ValueType.TIMESTAMP, evaluate, span)


D = 'date("2026-05-04")'
T = 'timestamp("2026-05-04 09:30")'
FUNCTIONS = (
    Function(
        "add_months",
        (Parameter("date", DAY), Parameter("months", INTEGER)),
        ValueType.DATE,
        "The same day so many months later, or earlier with a negative number; the last day where that month is"
        " shorter.",
        ((f"add_months({D}, 2)", "2026-07-04"), ('add_months(date("2026-01-31"), 1)', "2026-02-28")),
        bind=_add_months,
    ),
    Function(
        "add_minutes",
        (Parameter("timestamp", STAMP), Parameter("minutes", INTEGER)),
        ValueType.TIMESTAMP,
        "The timestamp so many minutes later, or earlier with a negative number.",
        ((f"add_minutes({T}, 45)", "2026-05-04T10:15:00"),),
        bind=_add_minutes,
    ),
    Function(
        "months_between",
        (Parameter("from", DAY), Parameter("to", DAY)),
        ValueType.INTEGER,
        "How many whole months later the second date is; negative where it is earlier.",
        (
            (f'months_between({D}, date("2026-07-03"))', "1"),
            (f'months_between({D}, date("2026-07-04"))', "2"),
        ),
        bind=_months_between,
    ),
    Function(
        "minutes_between",
        (Parameter("from", CLOCK), Parameter("to", CLOCK)),
        ValueType.INTEGER,
        "How many whole minutes later the second timestamp, or time of the day, is; negative where it is earlier.",
        ((f'minutes_between({T}, timestamp("2026-05-04 11:00:59"))', "90"),),
        bind=_minutes_between,
    ),
    Function(
        "first_day",
        (Parameter("date", DAY), Parameter("period", TEXT)),
        ValueType.DATE,
        'The first day of the "week" (a Monday), "month", "quarter" or "year" that the date lies in.',
        ((f'first_day({D}, "quarter")', "2026-04-01"),),
        bind=_edge(_starts, "first_day"),
    ),
    Function(
        "last_day",
        (Parameter("date", DAY), Parameter("period", TEXT)),
        ValueType.DATE,
        'The last day of the "week" (a Sunday), "month", "quarter" or "year" that the date lies in.',
        ((f'last_day({D}, "month")', "2026-05-31"),),
        bind=_edge(_ends, "last_day"),
    ),
    Function(
        "truncate_to",
        (Parameter("timestamp", STAMP), Parameter("unit", TEXT)),
        ValueType.TIMESTAMP,
        'The timestamp at which its "second", "minute", "hour", "day", "week", "month", "quarter" or "year" began.',
        ((f'truncate_to({T}, "hour")', "2026-05-04T09:00:00"),),
        bind=_truncate,
    ),
)
