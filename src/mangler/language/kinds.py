"""The kinds of value that a usage line names in capitals, with the function that reads each."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from decimal import Decimal
from typing import Any

from mangler.language.classes import read_classes
from mangler.language.columns import read_columns, read_list, read_names
from mangler.language.cursor import Cursor, Token
from mangler.language.expression import RESERVED
from mangler.language.literals import (
    Name,
    Number,
    Text,
    Truth,
    read_name,
    read_number,
    read_text,
    read_whole_number,
    starts_number,
    starts_text,
)
from mangler.language.mistake import Refusal
from mangler.language.parts import read_delimiters, read_naming, read_part_names
from mangler.language.patterns import Pattern, read_pattern
from mangler.language.types import read_type
from mangler.late_dataclass import dataclass


def read_matcher(cursor: Cursor) -> Text | Pattern:
    """What is looked for: a text or a pattern."""
    if cursor.peek() == "/":
        return read_pattern(cursor)
    if starts_text(cursor):
        return read_text(cursor)
    word = cursor.peek_word()
    advice = f'A text is written in quotes, "{word}", a pattern between slashes, /{word}/.' if word else ""
    if not word:
        return read_text(cursor)
    raise cursor.mistake(
        "text-or-pattern-needed", f"a text or a pattern is expected here, found {cursor.found()}", advice
    )


def read_matchers(cursor: Cursor) -> tuple[Text | Pattern, ...]:
    return read_list(cursor, lambda inner, _: read_matcher(inner))


def read_wanted_pattern(cursor: Cursor) -> Pattern:
    """A pattern, where a text would not do."""
    if cursor.peek() != "/":
        raise cursor.mistake(
            "pattern-needed",
            f"a pattern is expected here, found {cursor.found()}",
            "Patterns are written between slashes: /(\\d+)/.",
        )
    return read_pattern(cursor)


def read_cuts(cursor: Cursor) -> Any:
    """Delimiters, or positions."""
    return read_delimiters(cursor, read_matcher)


def read_texts(cursor: Cursor) -> tuple[Text, ...]:
    return read_list(cursor, lambda inner, _: read_text(inner))


def read_numbers(cursor: Cursor) -> tuple[Number, ...]:
    return read_list(cursor, lambda inner, _: read_whole_number(inner))


def read_value(cursor: Cursor) -> Text | Number | Truth:
    """A literal: a text, a number, `true`, `false` or `null`."""
    if starts_number(cursor):
        return read_number(cursor)
    word = cursor.peek_word()
    for spelling, value in (("true", True), ("false", False), ("null", None)):
        if word == spelling:
            start = cursor.offset
            cursor.take_word(word)
            return Truth(value, cursor.span(start))
    if word:
        raise cursor.mistake(
            "value-needed",
            f"a value is expected here, found {cursor.found()}",
            f'A text is written in quotes: "{word}". Other values are numbers, true, false and null.',
        )
    return read_text(cursor)


def starts_names(cursor: Cursor) -> bool:
    """Whether several names come next: one alone could be a clause."""
    mark = cursor.mark()
    try:
        if not cursor.peek_word() and cursor.peek() != "[":
            return False
        read_name(cursor)
        return cursor.peek() == ","
    except Refusal:
        return False
    finally:
        cursor.rewind(mark)


def starts_value(cursor: Cursor) -> bool:
    """Whether a literal comes next; null is not a value where one may be left out."""
    return starts_text(cursor) or starts_number(cursor) or cursor.peek_word() in ("true", "false")


@dataclass(frozen=True)
class Signature:
    """A function's name and the names of its parameters."""

    name: Name
    parameters: tuple[Name, ...]


def read_signature(cursor: Cursor) -> Signature:
    """`tidy(x, y)`"""
    name = _plain_name(cursor)
    if not cursor.take_mark("(", glued=True):
        raise cursor.mistake(
            "missing-word",
            f"( is expected here, found {cursor.found()}",
            f"Write define {name.value}(x) = …, with its parameters.",
        )
    parameters: list[Name] = []
    while cursor.peek() != ")":
        parameter = _plain_name(cursor)
        if any(parameter.value == other.value for other in parameters):
            raise cursor.mistake(
                "said-twice",
                f"{parameter.value} is a parameter already",
                "Give each a name of its own.",
                parameter.span,
            )
        if len(parameters) == 0:
            cursor.tokens[-1] = Token(cursor.tokens[-1].spelling, glued=True)
        parameters.append(parameter)
        if not cursor.take_mark(",", glued=True):
            break
    if not cursor.take_mark(")", glued=True):
        raise cursor.mistake(
            "missing-word", f") is expected here, found {cursor.found()}", "Each ( needs its )."
        )
    return Signature(name, tuple(parameters))


@dataclass(frozen=True)
class Amount:
    """A number of rows, or with `is_share` so many of a hundred."""

    number: Decimal
    is_share: bool

    def exceeded_by(self, count: int, of: int) -> bool:
        """Whether so many rows of so many are more."""
        return count * 100 > self.number * of if self.is_share else count > self.number

    def __str__(self) -> str:
        if self.is_share:
            return f"{self.number}%"
        return "1 row" if self.number == 1 else f"{self.number:,} rows"


def read_amount(cursor: Cursor) -> Amount:
    """`5 rows`, `1 row` or `0.5%`"""
    number = read_number(cursor)
    value = Decimal(number.value)
    if value < 0:
        raise cursor.mistake(
            "not-an-amount", "fewer rows than none cannot be", "Write tolerate 0 rows.", number.span
        )
    if cursor.take_mark("%", glued=True):
        if value > 100:
            raise cursor.mistake(
                "not-an-amount", "more than all rows cannot be", "Write at most 100%.", number.span
            )
        return Amount(value, True)
    if not (cursor.take_word("rows") or cursor.take_word("row")):
        raise cursor.mistake(
            "not-an-amount",
            f"rows or % is expected here, found {cursor.found()}",
            "Write tolerate 5 rows or tolerate 0.5%.",
        )
    if value != int(value):
        raise cursor.mistake(
            "not-an-amount", "a part of a row cannot be", "Write a whole number of rows, or %.", number.span
        )
    return Amount(value, False)


def _plain_name(cursor: Cursor) -> Name:
    """A name that an expression can call: no brackets."""
    if cursor.peek() == "[":
        raise cursor.mistake(
            "not-a-function-name",
            "a name in brackets cannot be called",
            "Use letters, digits and _, not starting with a digit.",
        )
    name = read_name(cursor)
    if name.value in RESERVED:
        raise cursor.mistake(
            "not-a-function-name", f"{name.value} is a word of expressions", "Take another name.", name.span
        )
    return name


def read_condition(cursor: Cursor) -> Any:
    """An expression. Its parser is loaded when one is met: most recipes start faster without it."""
    from mangler.language.expression_reader import read_expression

    return read_expression(cursor)


READERS: Mapping[str, Callable[[Cursor], Any]] = {
    "COLUMNS": read_columns,
    "COLUMN": read_name,
    "NAME": read_name,
    "NAMES": read_names,
    "TEXT": read_text,
    "TEXTS": read_texts,
    "NUMBER": read_whole_number,
    "NUMBERS": read_numbers,
    "MATCHER": read_matcher,
    "MATCHERS": read_matchers,
    "VALUE": read_value,
    "CONDITION": read_condition,
    "EXPR": read_condition,
    "SIGNATURE": read_signature,
    "CLASSES": read_classes,
    "TYPE": read_type,
    "PATTERN": read_wanted_pattern,
    "DELIMITERS": read_cuts,
    "PARTS": read_part_names,
    "NAMING": read_naming,
    "AMOUNT": read_amount,
}
