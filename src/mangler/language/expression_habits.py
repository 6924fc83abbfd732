"""Operators and forms of expressions from elsewhere, met with the form that is right here."""

from __future__ import annotations

from typing import Protocol

from mangler.language.cursor import Cursor
from mangler.language.expression import Expression
from mangler.language.literals import Name
from mangler.language.mistake import Refusal

HABITS = {
    "==": "Two values are compared with one =.",
    "<>": "Different is written !=.",
    "&&": "Both conditions: and.",
    "??": "The first value that is not null: coalesce(a, b).",
    "||": 'Either condition: or. Texts are put together in one text with holes: "{a}{b}".',
    "!": "The opposite: not.",
    "&": 'Texts are put together in one text with holes: "{a}{b}". Both conditions: a and b.',
    "?": "Write if condition then one value else another.",
    "**": "A number times itself: a * a.",
    "^": "A number times itself: a * a.",
    "=~": "A pattern is tested with matches: name matches /…/.",
}


class Reader(Protocol):
    """What is needed of the reader of expressions."""

    cursor: Cursor

    def arguments(self, what: str) -> tuple[Expression, ...]: ...


def refuse_habits(cursor: Cursor) -> None:
    """Refuses an operator from elsewhere, if one comes next."""
    for mark, advice in HABITS.items():
        if not cursor.starts_with(mark) or (mark == "!" and cursor.starts_with("!=")):
            continue
        if mark == "?" and cursor.starts_with("?}"):  # the end of a hole that may be null
            continue
        span = cursor.span(cursor.offset, cursor.offset + len(mark))
        raise cursor.mistake("foreign-operator", f"{mark} is not an operator", advice, span)


def refuse_call_of_if(reader: Reader) -> None:
    """Refuses `if(a, b, c)`, a function elsewhere."""
    cursor = reader.cursor
    before = cursor.mark()
    if cursor.peek() != "(":
        return
    try:
        parts = reader.arguments("a value")
    except Refusal:
        parts = ()
    cursor.rewind(before)
    if len(parts) == 3:
        condition, then, other = (part.span.text for part in parts)
        advice = f"Write if {condition} then {then} else {other}."
        raise cursor.mistake("foreign-operator", "if is not a function", advice)


def refuse_case_when(cursor: Cursor, name: Name) -> None:
    """Refuses `case when …`, where a column is read."""
    if name.span.text == "case" and cursor.peek_word() == "when":
        raise cursor.mistake(
            "foreign-operator",
            "case when is not a form of expressions here",
            "Write if CONDITION then VALUE else VALUE; after else a further if may follow.",
            name.span,
        )
