"""Reads calls: arguments, and the words that only some functions have among them."""

from __future__ import annotations

from typing import Protocol

from mangler.language.cursor import Cursor, Token
from mangler.language.expression import AGGREGATES, MOMENT_CALLS, Call, Expression
from mangler.language.literals import read_text, starts_text


class Reader(Protocol):
    """What a call needs of the reader of expressions."""

    cursor: Cursor

    def read(self, level: int) -> Expression: ...

    def expect_word(self, word: str, form: str) -> None: ...

    def close_bracket(self, opening: int) -> None: ...


def read_call(reader: Reader, function: str, start: int) -> Call:
    """The arguments behind a function's name, with what only some functions have among them."""
    cursor = reader.cursor
    opening = cursor.offset
    cursor.take(1, glued=True)
    distinct = False
    before = len(cursor.tokens)
    if function in AGGREGATES:
        distinct = cursor.take_word("distinct")
        if function == "count" and cursor.peek() == "*":
            raise cursor.mistake(
                "value-needed", "* is not a value", "count() counts rows, count(x) values of x."
            )
    arguments: list[Expression] = []
    sorted_by, descending, where, language = None, False, None, None
    if function == "count" and not distinct and _starts_where(cursor):
        cursor.take_word("where")
        where = reader.read(0)
    elif cursor.peek() != ")":
        while True:
            if arguments and function in MOMENT_CALLS and _starts_language(cursor):
                cursor.take_word("language")
                language = read_text(cursor)
                break
            arguments.append(reader.read(0))
            if not cursor.take_mark(",", glued=True):
                break
        if function in AGGREGATES and cursor.take_word("sorted"):
            reader.expect_word("by", f"{function}(x sorted by y)")
            sorted_by = reader.read(0)
            descending = cursor.take_word("descending")
    reader.close_bracket(opening)
    glue(cursor, before)
    return Call(
        function, tuple(arguments), cursor.span(start), distinct, sorted_by, descending, where, language
    )


def _starts_language(cursor: Cursor) -> bool:
    """Whether `language` comes next with a text behind it."""
    before = cursor.mark()
    found = cursor.take_word("language") and starts_text(cursor)
    cursor.rewind(before)
    return found


def _starts_where(cursor: Cursor) -> bool:
    """Whether `where` comes next with a condition behind it; a column of that name is written in brackets."""
    before = cursor.mark()
    found = cursor.take_word("where") and cursor.peek() != ")"
    cursor.rewind(before)
    return found


def glue(cursor: Cursor, index: int) -> None:
    """Takes the space from before a token that follows an opening bracket or a sign."""
    if index < len(cursor.tokens):
        cursor.tokens[index] = Token(cursor.tokens[index].spelling, glued=True)
