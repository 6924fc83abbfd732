"""Months, periods and lengths of time, against Python's calendar."""

from __future__ import annotations

import calendar
from datetime import date, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import Refused
from tests.expressions.evaluating import evaluate

DATES = st.dates(date(1, 1, 1), date(9999, 12, 31))
STAMPS = st.datetimes(datetime(1900, 1, 1), datetime(2200, 1, 1))
OUTSIDE = "<the day lies outside the years 1 to 9999>"


def months_later(day: date, months: int) -> date | None:
    year, month = divmod(day.year * 12 + day.month - 1 + months, 12)
    if not 1 <= year <= 9999:
        return None
    return day.replace(year=year, month=month + 1, day=min(day.day, calendar.monthrange(year, month + 1)[1]))


@given(st.lists(st.tuples(DATES, st.integers(-30, 30)), min_size=1, max_size=8))
def test_months_later(pairs: list[tuple[date, int]]) -> None:
    days, counts = [day for day, _ in pairs], [count for _, count in pairs]
    wanted = [months_later(day, count) or OUTSIDE for day, count in pairs]
    assert evaluate("add_months(d, n)", d=days, n=counts) == wanted


@given(STAMPS, STAMPS)
def test_months_between_are_those_that_can_be_added(one: datetime, other: datetime) -> None:
    (months,) = evaluate("months_between(a, b)", a=[one], b=[other])
    early, late = min(one, other), max(one, other)
    reached, following = months_later(early, abs(months)), months_later(early, abs(months) + 1)
    assert reached is not None and following is not None and reached <= late < following
    assert months <= 0 if other < one else months >= 0


@given(STAMPS, st.integers(-100_000, 100_000))
def test_minutes(stamp: datetime, minutes: int) -> None:
    (later,) = evaluate("add_minutes(t, n)", t=[stamp], n=[minutes])
    assert later == stamp + timedelta(minutes=minutes)
    assert evaluate("minutes_between(a, b)", a=[stamp], b=[later]) == [minutes]
    assert evaluate("minutes_between(a, b)", a=[stamp], b=[later + timedelta(seconds=59)]) == [
        minutes if minutes >= 0 else minutes + 1
    ]


@given(DATES.filter(lambda day: date(1, 1, 8) < day < date(9999, 12, 20)))
def test_periods(day: date) -> None:
    quarter = (day.month - 1) // 3 * 3 + 1
    firsts = {
        "week": day - timedelta(days=day.weekday()),
        "month": day.replace(day=1),
        "quarter": day.replace(day=1, month=quarter),
        "year": day.replace(day=1, month=1),
    }
    lasts = {
        "week": firsts["week"] + timedelta(days=6),
        "month": day.replace(day=calendar.monthrange(day.year, day.month)[1]),
        "quarter": day.replace(month=quarter + 2, day=calendar.monthrange(day.year, quarter + 2)[1]),
        "year": day.replace(month=12, day=31),
    }
    for unit, first in firsts.items():
        assert evaluate(f"first_day(d, '{unit}')", d=[day]) == [first]
        assert evaluate(f"last_day(d, '{unit}')", d=[day]) == [lasts[unit]]


def test_a_timestamp_is_cut_off() -> None:
    stamp = datetime(2026, 5, 6, 9, 31, 15, 250)
    wanted = {
        "second": datetime(2026, 5, 6, 9, 31, 15),
        "minute": datetime(2026, 5, 6, 9, 31),
        "hour": datetime(2026, 5, 6, 9),
        "day": datetime(2026, 5, 6),
        "week": datetime(2026, 5, 4),
        "quarter": datetime(2026, 4, 1),
    }
    for unit, cut in wanted.items():
        assert evaluate(f"truncate_to(t, '{unit}')", t=[stamp, None]) == [cut, None]


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("1h 20m", 4800),
        ("2:05:10", 7510),
        ("2:05", 7500),
        ("90 min", 5400),
        ("1 Day, 2 hours", 93600),
        ("45s", 45),
        (" 3 hrs ", 10800),
        ("2m5s", 125),
        ("", None),
        (None, None),
    ],
)
def test_lengths_of_time(text: str | None, seconds: int | None) -> None:
    assert evaluate("seconds_in(t)", t=[text]) == [seconds]


@pytest.mark.parametrize(
    ("expression", "says"),
    [
        ("seconds_in(k)", '"soon" is not a length of time'),
        ('first_day(date("2026-05-04"), "decade")', '"week", "month", "quarter", "year"'),
        ("first_day(date('2026-05-04'), k)", "is not a unit of time"),
        (
            'minutes_between(time("09:30"), timestamp("2026-05-04 09:30"))',
            "Both are times, or both timestamps",
        ),
        ('add_months(date("9999-12-01"), 1)', "outside the years 1 to 9999"),
        ('add_minutes(date("2026-05-04"), 1)', "works on timestamps"),
        ('format_date(date("2026-05-04"), "dd.mm.yyyy")', "has no part of a date"),
        ('greatest(1, "a")', "values of one type"),
        ("greatest(true, false)", "values that have an order"),
    ],
)
def test_wrong_use(refused: Refused, expression: str, says: str) -> None:
    refused(f"make x = {expression}", "k\nsoon\n", says)


def test_the_greatest_and_least_of_what_has_an_order() -> None:
    days = [date(2026, 5, 4), None]
    assert evaluate("greatest(d, date('2026-05-11'))", d=days) == [date(2026, 5, 11)] * 2
    assert evaluate("least(t, 'm', null)", t=["a", None]) == ["a", "m"]
    assert evaluate("least(n, 1.5)", n=[1, 2]) == [1, 1.5]
