"""Dates and times as people write them, by forms such as `%d/%m/%Y`; the directives are those of POSIX."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANK_CLASS
from mangler.kernels.convert import DAY, Integers, days_since_epoch, to_float
from mangler.kernels.patterns import escape, flags_of
from mangler.kernels.text_view import Flags, TextArray
from mangler.kernels.white_space import trim

MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
MONTH_NAMES = (
    "january|february|march|april|may|june|july|august|september|october|november|december|"
    "jan|feb|mar|apr|jun|jul|aug|sept|sep|oct|nov|dec"
)
WEEKDAY_NAMES = "(?:mon|tues?|wed(?:nes)?|thu(?:rs)?|fri|sat(?:ur)?|sun)(?:day)?"
PARTS = {
    "Y": "(?P<Y>[0-9]{4})",
    "y": "(?P<y>[0-9]{2})",
    "m": "(?P<m>[0-9]{1,2})",
    "d": "(?P<d>[0-9]{1,2})",
    "j": "(?P<j>[0-9]{1,3})",
    "H": "(?P<H>[0-9]{1,2})",
    "I": "(?P<I>[0-9]{1,2})",
    "M": "(?P<M>[0-9]{2})",
    "S": "(?P<S>[0-9]{2})",
    "f": "(?P<f>[0-9]{1,6})",
    "p": "(?P<p>(?i:am|pm))",
    "b": f"(?P<b>(?i:{MONTH_NAMES}))",
    "B": f"(?P<b>(?i:{MONTH_NAMES}))",
    "a": f"(?i:{WEEKDAY_NAMES})",
    "A": f"(?i:{WEEKDAY_NAMES})",
    "%": "%",
}
FIRST_SERIAL, LAST_SERIAL = 61, 2_958_465
"""March 1900, before which programs disagree about a leap day that never was, to the end of the year 9999."""
SERIAL_ZERO = -25_569
"""1899-12-30, in days since 1970-01-01."""
MIDDLE_YEAR = 69
"""Two-digit years from here on are of the last century, as POSIX has it."""


@dataclass(frozen=True)
class Moments:
    """Microseconds since 1970-01-01, or of the day where a form has no date; `fits` says which texts were read."""

    values: Integers
    fits: Flags


def directives_of(form: str) -> list[str]:
    """The letters after percent signs, unknown ones too."""
    letters, offset = [], form.find("%")
    while offset >= 0:
        letters.append(form[offset + 1 : offset + 2])
        offset = form.find("%", offset + 2)
    return letters


def problem_of_form(form: str, kind: str) -> str:
    """What keeps a form from being one of dates, times or timestamps; nothing if all is right."""
    letters = directives_of(form)
    unknown = next((letter for letter in letters if letter not in PARTS), None)
    if unknown is not None:
        return f'"%{unknown}" is no part of a date or time'
    names = ["b" if letter == "B" else letter for letter in letters if letter not in "%aA"]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice:
        return f'"%{twice}" stands twice'
    there = set(names)
    has_date = bool(there & {"Y", "y"}) and ("j" in there or ("d" in there and bool(there & {"m", "b"})))
    has_time = "H" in there or {"I", "p"} <= there
    if kind in ("date", "timestamp") and not has_date:
        return "this form has no year, month and day"
    if kind in ("time", "timestamp") and not has_time:
        return "this form has no hour"
    if kind == "time" and there & {"Y", "y", "m", "d", "j", "b"}:
        return "this form has a date, and a time is asked for"
    if kind == "date" and there & {"H", "I", "M", "S", "f", "p"}:
        return "this form has a time, and a date is asked for"
    return ""


def read_form(array: TextArray, form: str) -> Moments:
    """The texts that are of this form, white space around them ignored; days and times that do not exist do not fit."""
    fields = pc.extract_regex(trim(array).array, pattern=_pattern(form))
    fits = flags_of(fields.is_valid())
    names = {fields.type.field(i).name for i in range(fields.type.num_fields)}

    def number(name: str, absent: int = 0) -> Integers:
        if name not in names:
            return np.full(len(array), absent, np.int64)
        texts = pc.if_else(pa.array(fits), pc.struct_field(fields, name), "0")
        return np.asarray(pc.cast(texts, pa.int64()))

    values = np.zeros(len(array), np.int64)
    if names & {"Y", "y"}:
        days, exists = _days(names, number, fields, fits)
        values += days * DAY
        fits &= exists
    if names & {"H", "I"}:
        time, exists = _time(names, number, fields, fits)
        values += time
        fits &= exists
    return Moments(values, fits)


def _days(names: set[str], number: Any, fields: Any, fits: Flags) -> tuple[Integers, Flags]:
    short = number("y")
    year = number("Y") if "Y" in names else np.where(short >= MIDDLE_YEAR, 1900, 2000) + short
    if "j" in names:
        first, exists = days_since_epoch(year, np.ones_like(year), np.ones_like(year))
        following, _ = days_since_epoch(year + 1, np.ones_like(year), np.ones_like(year))
        day = number("j")
        return first + day - 1, exists & (day >= 1) & (day <= following - first)
    month = number("m")
    if "b" in names:
        name = pc.utf8_slice_codeunits(pc.utf8_lower(pc.struct_field(fields, "b")), 0, 3)
        index = pc.index_in(pc.if_else(pa.array(fits), name, "jan"), value_set=pa.array(MONTHS))
        month = np.asarray(index.fill_null(-1)).astype(np.int64) + 1
    return days_since_epoch(year, month, number("d"))


def _time(names: set[str], number: Any, fields: Any, fits: Flags) -> tuple[Integers, Flags]:
    hour = number("H")
    exists = hour < 24
    if "I" in names:
        hour = number("I")
        exists = (hour >= 1) & (hour <= 12)
        half = pc.utf8_lower(pc.if_else(pa.array(fits), pc.struct_field(fields, "p"), "am"))
        hour = hour % 12 + 12 * flags_of(pc.equal(half, "pm")).astype(np.int64)
    minute, second = number("M"), number("S")
    fraction = np.zeros(len(hour), np.int64)
    if "f" in names:
        digits = pc.if_else(pa.array(fits), pc.struct_field(fields, "f"), "0")
        fraction = np.asarray(pc.cast(pc.ascii_rpad(digits, width=6, padding="0"), pa.int64()))
    exists = exists & (minute < 60) & (second < 60)
    return ((hour * 60 + minute) * 60 + second) * 1_000_000 + fraction, exists


def _pattern(form: str) -> str:
    out, offset = "^", 0
    while offset < len(form):
        character = form[offset]
        if character == "%":
            out += PARTS[form[offset + 1]]
            offset += 2
            continue
        out += f"[{BLANK_CLASS}]+" if character.isspace() else escape(character)
        offset += 1
    return out + "$"


def read_serial(array: Any, whole_days: bool) -> Moments:
    """Day numbers as spreadsheets count them, 1 being 1900-01-01; the fraction is the time, to the millisecond."""
    numbers: npt.NDArray[np.float64]
    if pa.types.is_string(array.type):
        array = to_float(array).array
    numbers = np.asarray(pc.cast(array, pa.float64()).fill_null(0.0))
    fits = (numbers >= FIRST_SERIAL) & (numbers < LAST_SERIAL + 1)
    if whole_days:
        fits &= numbers == np.floor(numbers)
    safe = np.where(fits, numbers, FIRST_SERIAL)
    milliseconds = np.rint(safe * 86_400_000).astype(np.int64)
    return Moments(milliseconds * 1000 + SERIAL_ZERO * DAY, fits)
