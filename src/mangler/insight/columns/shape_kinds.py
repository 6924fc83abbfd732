"""What a shape looks like: a number, a date, a code, a word."""

from __future__ import annotations

import re
from enum import StrEnum
from functools import cache


class ShapeKind(StrEnum):
    NUMBER = "number"
    DATE = "date"
    TIMESTAMP = "timestamp"
    TIME = "time"
    CODE = "code"
    """Digits and other marks that are no number and no date."""
    WORD = "word"
    MARKS = "marks"
    """Neither letters nor digits."""
    PROSE = "prose"


MACHINE = (ShapeKind.NUMBER, ShapeKind.DATE, ShapeKind.TIMESTAMP, ShapeKind.TIME)
"""Kinds of values that are reported by their form alone."""

NUMBER = re.compile(
    r"^\(?[+-]?(?:[^9a .,+-]{1,2} ?|a )?[+-]?(?:9+|(?=[.,]9))(?:[ ,.'$]9{3})*(?:[.,]9*)?"
    r"(?:a[+-]?9+)?(?: ?[^9 .,+-]{1,4})?\)?$"
)
"""Digits with marks between thousands and before places; a sign; a unit of one word before or after."""

CLOCK = re.compile(r"^9{1,2}:9{2}(?::9{2}(?:\.9{1,6})?)?(?: ?a)?$")
TIME_TAIL = r"(?:(?P<t>[T ]|, |a)(?P<h>9{1,2}):9{2}(?P<s>:9{2}(?:\.9{1,6})?)?(?P<p> ?a)?)?$"


@cache
def kind_of(shape: str) -> ShapeKind:
    """The kind of texts of this shape. The empty shape is prose."""
    if not shape:
        return ShapeKind.PROSE
    if "9" not in shape:
        if "a" not in shape:
            return ShapeKind.MARKS
        return ShapeKind.WORD
    forms = date_forms_of(shape)
    if forms:
        return ShapeKind.TIMESTAMP if "%H" in forms[0] or "%I" in forms[0] else ShapeKind.DATE
    if CLOCK.match(shape):
        return ShapeKind.TIME
    if NUMBER.match(shape):
        return ShapeKind.NUMBER
    return ShapeKind.CODE


NUMERIC_DATE = re.compile(r"^(?P<a>9{4}|9{1,2})(?P<m>[-/.])(?P<b>9{1,2})(?P=m)(?P<c>9{4}|9{1,2})" + TIME_TAIL)
NAMED_DAY_FIRST = re.compile(
    r"^(?P<w>a,? )?9{1,2}(?P<m>\. |[- /.])a(?P<n>, |\. |[- /.])(?P<y>9{4}|9{2})" + TIME_TAIL
)
NAMED_MONTH_FIRST = re.compile(
    r"^(?P<w>a,? )?a(?P<dot>\.?)(?P<k>[ -/])9{1,2}(?P<n>,? |(?P=k))(?P<y>9{4})" + TIME_TAIL
)


@cache
def date_forms_of(shape: str) -> tuple[str, ...]:
    """The forms, as `convert … written` has them, that texts of this shape may be of: day first before month first."""
    found = NUMERIC_DATE.match(shape)
    if found:
        mark = found["m"]
        if len(found["a"]) == 4:
            if len(found["c"]) > 2:
                return ()
            forms = [f"%Y{mark}%m{mark}%d"]
        else:
            year = "%Y" if len(found["c"]) == 4 else "%y"
            if len(found["c"]) == 1:
                return ()
            forms = [f"%d{mark}%m{mark}{year}", f"%m{mark}%d{mark}{year}"]
            if year == "%y" and len(found["a"]) == 2:
                forms.append(f"%y{mark}%m{mark}%d")
    elif found := NAMED_DAY_FIRST.match(shape):
        year = "%Y" if len(found["y"]) == 4 else "%y"
        weekday = "%a" + found["w"][1:] if found["w"] else ""
        forms = [f"{weekday}%d{found['m']}%b{found['n']}{year}"]
    elif found := NAMED_MONTH_FIRST.match(shape):
        weekday = "%a" + found["w"][1:] if found["w"] else ""
        forms = [f"{weekday}%b{found['dot']}{found['k']}%d{found['n']}{found['y'] and '%Y'}"]
    else:
        return ()
    if found["t"] == "a" and found["p"]:  # a zone, as in 09:30Z
        return ()
    return tuple(form + _time_of(found) for form in forms)


def _time_of(found: re.Match[str]) -> str:
    if not found["h"]:
        return ""
    between = "T" if found["t"] == "a" else found["t"]
    seconds = "" if not found["s"] else ":%S" if "." not in found["s"] else ":%S.%f"
    half = found["p"]
    hours = f"%I:%M{seconds}{half.replace('a', '%p')}" if half else f"%H:%M{seconds}"
    return between + hours


def time_form_of(shape: str) -> str:
    """The form of a time of day; nothing for other shapes."""
    if not CLOCK.match(shape):
        return ""
    seconds = "" if shape.count(":") < 2 else ":%S.%f" if "." in shape else ":%S"
    if shape.endswith("a"):
        return f"%I:%M{seconds}{' ' * shape.endswith(' a')}%p"
    return f"%H:%M{seconds}"
