"""The kinds of value that a usage line names in capitals, with the function that reads each."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from mangler.language.columns import read_columns, read_list, read_names
from mangler.language.cursor import Cursor
from mangler.language.literals import (
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
from mangler.language.patterns import Pattern, read_pattern


def read_matcher(cursor: Cursor) -> Text | Pattern:
    """What is looked for: a text or a pattern."""
    if cursor.peek() == "/":
        return read_pattern(cursor)
    if starts_text(cursor):
        return read_text(cursor)
    word = cursor.peek_word()
    advice = f'A text stands in quotes, "{word}", a pattern between slashes, /{word}/.' if word else ""
    if not word:
        return read_text(cursor)
    raise cursor.mistake(f"a text or a pattern is expected here, found {cursor.found()}", advice)


def read_matchers(cursor: Cursor) -> tuple[Text | Pattern, ...]:
    return read_list(cursor, lambda inner, _: read_matcher(inner))


def read_texts(cursor: Cursor) -> tuple[Text, ...]:
    return read_list(cursor, lambda inner, _: read_text(inner))


def read_value(cursor: Cursor) -> Text | Number | Truth:
    """A literal: a text, a number, `true`, `false` or `null`."""
    if starts_number(cursor):
        return read_number(cursor)
    word = cursor.peek_word()
    for spelling, value in (("true", True), ("false", False), ("null", None)):
        if word == spelling:
            start = cursor.offset
            cursor.take_word(word)
            return Truth(value, cursor.place(start))
    if word:
        raise cursor.mistake(
            f"a value is expected here, found {cursor.found()}",
            f'A text stands in quotes: "{word}". Other values are numbers, true, false and null.',
        )
    return read_text(cursor)


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
    "MATCHER": read_matcher,
    "MATCHERS": read_matchers,
    "VALUE": read_value,
    "CONDITION": read_condition,
    "EXPR": read_condition,
}
