"""Dates and times as people write them, by forms such as `%d/%m/%Y`; the directives are those of POSIX."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANK_CLASS
from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.patterns import escape, flags_of
from mangler.kernels.text.text_view import Flags, TextArray, view
from mangler.kernels.text.white_space import trim
from mangler.kernels.values.convert import DAY, Integers, days_since_epoch, to_float
from mangler.kernels.values.date_names import DateNames
from mangler.late_dataclass import dataclass

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


LEFT, READ = 0, 1
"""What the compiled kernel says of a cell: left to others, or read."""


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
        return f'"%{unknown}" is not a part of a date or time'
    names = ["b" if letter == "B" else letter for letter in letters if letter not in "%aA"]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice:
        return f'"%{twice}" is there twice'
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


def read_form(
    array: TextArray, form: str, century: int | None = None, names: DateNames | None = None
) -> Moments:
    """The texts that are of this form, white space around them ignored; days and times that do not exist do not fit.

    `century` is the first of the hundred years in which years of two digits lie; None: as POSIX has it. `names` are
    those of another language; None: the English ones.

    Texts with all their digits are read at fixed places, a column of digits at a time; others by pattern.
    """
    fixed = _fixed_places(form)
    if compiled.forms is not None and fixed is not None:
        return _compiled(array, form, century, names)
    texts = trim(array).array
    if fixed is None or len(texts) == 0:
        return _by_pattern(texts, form, century, names)
    rows, digits = _of_full_length(texts, fixed)
    read = _moments(
        set(fixed.offsets),
        lambda name, absent=0: fixed.number(digits, name, absent),
        None,
        len(rows),
        century=century,
    )
    values, fits = np.zeros(len(texts), np.int64), np.zeros(len(texts), np.bool_)
    values[rows], fits[rows] = read.values, read.fits
    others = np.asarray(texts.is_valid())
    others[rows] = False
    if others.any():
        rest = _by_pattern(texts.filter(from_numpy(others)), form, century, names)
        values[others], fits[others] = rest.values, rest.fits
    return Moments(values, fits)


def _compiled(array: TextArray, form: str, century: int | None, names: DateNames | None) -> Moments:
    """Texts with all their digits by the compiled kernel, others by pattern."""
    assert compiled.forms is not None
    values, states = compiled.forms.moments(array, form.encode(), _first_year(century))
    fits, others = states == READ, states == LEFT
    if others.any():
        rest = _by_pattern(trim(array.filter(from_numpy(others))).array, form, century, names)
        values[others], fits[others] = rest.values, rest.fits
    return Moments(values, fits)


@dataclass(frozen=True)
class FixedPlaces:
    """Where each directive's digits and each literal byte are in a text that has all digits."""

    width: int
    offsets: dict[str, tuple[int, int]]
    literals: tuple[tuple[int, int], ...]

    def number(self, digits: Integers, name: str, absent: int) -> Integers:
        if name not in self.offsets:
            return np.full(len(digits), absent, np.int64)
        start, count = self.offsets[name]
        value = np.zeros(len(digits), np.int64)
        for offset in range(start, start + count):
            value = value * 10 + digits[:, offset]
        return value


WIDTHS = {"Y": 4, "y": 2, "m": 2, "d": 2, "j": 3, "H": 2, "M": 2, "S": 2}


def _fixed_places(form: str) -> FixedPlaces | None:
    """None for forms with names, halves of the day, fractions, or literals beyond ASCII."""
    if not form.isascii() or any(letter not in WIDTHS for letter in directives_of(form)):
        return None
    offsets: dict[str, tuple[int, int]] = {}
    literals = []
    offset = width = 0
    while offset < len(form):
        if form[offset] == "%":
            letter = form[offset + 1]
            offsets[letter] = (width, WIDTHS[letter])
            width += WIDTHS[letter]
            offset += 2
        else:
            literals.append((width, ord(form[offset])))
            width += 1
            offset += 1
    return FixedPlaces(width, offsets, tuple(literals))


def _of_full_length(texts: TextArray, fixed: FixedPlaces) -> tuple[ColumnArray, Integers]:
    """The rows whose texts have every digit and literal in its place, and their bytes less 48."""
    cells = view(texts)
    rows = np.flatnonzero(cells.only_valid(cells.lengths == fixed.width))
    starts = cells.starts[rows]
    right = np.ones(len(rows), np.bool_)
    for offset, byte in fixed.literals:
        right &= cells.data[starts + offset] == byte
    columns = np.zeros((fixed.width, len(rows)), np.uint8)
    for start, count in fixed.offsets.values():
        for offset in range(start, start + count):
            np.subtract(cells.data[starts + offset], 48, out=columns[offset])
            right &= columns[offset] < 10
    return rows[right], columns[:, right].T.astype(np.int64)


def _by_pattern(
    texts: TextArray, form: str, century: int | None = None, spellings: DateNames | None = None
) -> Moments:
    fields = pc.extract_regex(texts, pattern=_pattern(form, spellings))
    fits = flags_of(fields.is_valid())
    names = {fields.type.field(i).name for i in range(fields.type.num_fields)}

    def number(name: str, absent: int = 0) -> Integers:
        if name not in names:
            return np.full(len(texts), absent, np.int64)
        spelled = pc.if_else(from_numpy(fits), pc.struct_field(fields, name), "0")
        return np.asarray(pc.cast(spelled, pa.int64()))

    read = _moments(names, number, fields, len(texts), fits, century, spellings)
    return Moments(read.values, fits & read.fits)


def _moments(
    names: set[str],
    number: Any,
    fields: Any,
    count: int,
    matched: Flags | None = None,
    century: int | None = None,
    spellings: DateNames | None = None,
) -> Moments:
    """Days and times of numbers by directive; `fields` holds the names of months and halves of the day."""
    values = np.zeros(count, np.int64)
    fits = np.ones(count, np.bool_)
    matched = fits if matched is None else matched
    if names & {"Y", "y"}:
        days, exists = _days(names, number, fields, matched, century, spellings)
        values += days * DAY
        fits = fits & exists
    if names & {"H", "I"}:
        time, exists = _time(names, number, fields, matched)
        values += time
        fits = fits & exists
    return Moments(values, fits)


def _first_year(century: int | None) -> int:
    """Of the hundred years in which years of two digits lie."""
    return 1900 + MIDDLE_YEAR if century is None else century


def _days(
    names: set[str],
    number: Any,
    fields: Any,
    fits: Flags,
    century: int | None,
    spellings: DateNames | None,
) -> tuple[Integers, Flags]:
    first_year = _first_year(century)
    year = number("Y") if "Y" in names else first_year + (number("y") - first_year) % 100
    if "j" in names:
        first, exists = days_since_epoch(year, np.ones_like(year), np.ones_like(year))
        following, _ = days_since_epoch(year + 1, np.ones_like(year), np.ones_like(year))
        day = number("j")
        return first + day - 1, exists & (day >= 1) & (day <= following - first)
    month = number("m")
    if "b" in names and spellings is not None:
        month = spellings.months_of(pc.if_else(from_numpy(fits), pc.struct_field(fields, "b"), ""))
    elif "b" in names:
        name = pc.utf8_slice_codeunits(pc.utf8_lower(pc.struct_field(fields, "b")), 0, 3)
        index = pc.index_in(pc.if_else(from_numpy(fits), name, "jan"), value_set=pa.array(MONTHS))
        month = np.asarray(index.fill_null(-1)).astype(np.int64) + 1
    return days_since_epoch(year, month, number("d"))


def _time(names: set[str], number: Any, fields: Any, fits: Flags) -> tuple[Integers, Flags]:
    hour = number("H")
    exists = hour < 24
    if "I" in names:
        hour = number("I")
        exists = (hour >= 1) & (hour <= 12)
        half = pc.utf8_lower(pc.if_else(from_numpy(fits), pc.struct_field(fields, "p"), "am"))
        hour = hour % 12 + 12 * flags_of(pc.equal(half, "pm")).astype(np.int64)
    minute, second = number("M"), number("S")
    fraction = np.zeros(len(hour), np.int64)
    if "f" in names:
        digits = pc.if_else(from_numpy(fits), pc.struct_field(fields, "f"), "0")
        fraction = np.asarray(pc.cast(pc.ascii_rpad(digits, width=6, padding="0"), pa.int64()))
    exists = exists & (minute < 60) & (second < 60)
    return ((hour * 60 + minute) * 60 + second) * 1_000_000 + fraction, exists


def _pattern(form: str, names: DateNames | None) -> str:
    parts = PARTS
    if names is not None:
        month, day = names.month_pattern, names.weekday_pattern
        parts = {**PARTS, "b": month, "B": month, "a": day, "A": day}
    out, offset = "^", 0
    while offset < len(form):
        character = form[offset]
        if character == "%":
            out += parts[form[offset + 1]]
            offset += 2
            continue
        out += f"[{BLANK_CLASS}]+" if character.isspace() else escape(character)
        offset += 1
    return out + "$"


def read_serial(array: ColumnArray, whole_days: bool) -> Moments:
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
