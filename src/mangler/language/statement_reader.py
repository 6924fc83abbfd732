"""Reads one statement, by the usage line of its verb."""

from __future__ import annotations

from dataclasses import replace

from mangler.language.cursor import Cursor
from mangler.language.declaration import Verbs
from mangler.language.mistake import Refusal
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.language.tables import read_table_pair
from mangler.language.usage import Usage, parse_usage
from mangler.language.walk import walk


def read_statement(cursor: Cursor, verbs: Verbs) -> Statement:
    """Reads the one statement that the cursor holds. One of a shape from elsewhere is met with the line to write."""
    start, end = cursor.offset, cursor.end
    try:
        return _read(cursor, verbs)
    except Refusal as refusal:
        from mangler.language.foreign_shapes import (
            line_for_shape,  # late: many words that no sound recipe needs
        )

        line = line_for_shape(cursor.source.text[start:end].strip())
        if not line:
            raise
        first, *others = refusal.mistakes
        raise Refusal([replace(first, advice=f"Write {line}."), *others], refusal.code) from None


def _read(cursor: Cursor, verbs: Verbs) -> Statement:
    names = verbs.names()
    for name in sorted(names, key=lambda name: -len(name)):
        mark = cursor.mark()
        come = cursor.take_word(*name.split())
        cursor.rewind(mark)
        if come:
            _refuse_call(cursor, name)
            usage = parse_usage(name, verbs.declaration(name).usage)
            return _with_body(cursor, name, usage) if usage.has_body else walk(cursor, name, usage)
    from mangler.language.habits import unknown_verb

    message, advice = unknown_verb(cursor, names, lambda name: verbs.declaration(name).usage)
    raise cursor.mistake("unknown-verb", message, advice)


def _refuse_call(cursor: Cursor, verb: str) -> None:
    """A verb with a bracket right behind it is meant for a function."""
    cursor.skip()
    behind = cursor.source.text[cursor.offset + len(verb) : cursor.end].split("\n")[0]
    if behind.startswith("("):
        from mangler.language.habits import function_as_statement

        message, advice = function_as_statement(verb, behind.strip())
        raise cursor.mistake("unknown-verb", message, advice)


def _with_body(cursor: Cursor, verb: str, usage: Usage) -> Statement:
    """A statement with tables under its first line."""
    source = cursor.source
    cursor.skip()
    first_end = source.text.find("\n", cursor.offset, cursor.end)
    first_end = cursor.end if first_end < 0 else first_end
    head = walk(Cursor(source, cursor.offset, first_end), verb, usage)
    given, expected = read_table_pair(source, first_end, cursor.end, head.span)
    end = len(source.text[: cursor.end].rstrip())
    return replace(
        head,
        values={**head.values, "given": given, "becomes": expected},
        span=SourceSpan(source, head.span.start, end),
    )
