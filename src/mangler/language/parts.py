"""What a split says: the delimiters or positions that it cuts at, and the names that parts are given to."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import field
from typing import TypeAlias

from mangler.language.columns import read_list
from mangler.language.cursor import Cursor
from mangler.language.literals import (
    Name,
    Number,
    Template,
    Text,
    read_name,
    read_template,
    read_text,
    read_whole_number,
    starts_number,
)
from mangler.language.patterns import Pattern, read_pattern
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass

Delimiter: TypeAlias = Text | Pattern | Number
NAMING = ("column", "n")
"""What a hole in the name of numbered columns can mean."""


@dataclass(frozen=True)
class PartName:
    """`name`, `name?`, or `name? /pattern/`: a new column, optional, taken by parts that match."""

    name: Name
    optional: bool
    pattern: Pattern | None
    span: SourceSpan = field(compare=False, repr=False)


def read_delimiters(
    cursor: Cursor, read_matcher: Callable[[Cursor], Text | Pattern]
) -> tuple[Delimiter, ...]:
    """Texts and patterns; or positions, all numbers."""
    if starts_number(cursor):
        return read_list(cursor, lambda inner, _: _read_position(inner))
    return read_list(cursor, lambda inner, _: read_matcher(inner))


def _read_position(cursor: Cursor) -> Number:
    if not starts_number(cursor):
        raise cursor.mistake(
            "number-needed",
            f"a position is expected here, found {cursor.found()}",
            "Write positions or delimiters, not both: at 2, 5 cuts after the 2nd and the 5th character.",
        )
    number = read_whole_number(cursor)
    if number.value == 0:
        raise cursor.mistake(
            "count-from-one", "nothing is before position 0", "Positions count from 1.", number.span
        )
    return number


def read_part_names(cursor: Cursor) -> tuple[PartName, ...]:
    return read_list(cursor, _read_part_name)


def _read_part_name(cursor: Cursor, after_comma: bool) -> PartName:
    cursor.skip()
    start = cursor.offset
    name = read_name(cursor, after_comma)
    optional = cursor.take_mark("?", glued=True)
    if cursor.peek() != "/":
        return PartName(name, optional, None, cursor.span(start))
    if not optional:
        raise cursor.mistake(
            "optional-part",
            "a pattern says which parts an optional name takes",
            f"Write {name.span.text}? and the pattern; a name without ? takes the next part, whatever it is.",
        )
    pattern = read_pattern(cursor)
    return PartName(name, True, pattern, cursor.span(start))


def starts_part_name(cursor: Cursor) -> bool:
    return bool(cursor.peek_word()) or cursor.peek() == "["


def read_naming(cursor: Cursor) -> Text | Template:
    """A text with the holes {column} and {n}."""
    if cursor.peek() == "'":
        return read_text(cursor)
    return read_template(cursor, _read_naming_hole)


def _read_naming_hole(cursor: Cursor) -> Name:
    name = read_name(cursor)
    if name.value not in NAMING:
        raise cursor.mistake(
            "unknown-hole",
            f"{{{name.value}}} is nothing that the name of a column can hold",
            "Its holes are {column}, the name of the column that is split, and {n}, the part's number.",
            name.span,
        )
    return name
