"""Column selectors: which columns a statement is about, before any extract is known."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import field
from typing import TypeAlias, TypeVar

from mangler.language.cursor import Cursor
from mangler.language.literals import Name, read_name
from mangler.language.patterns import Pattern, read_pattern
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass

Item = TypeVar("Item")

FAMILIES = ("text", "numeric", "date")


@dataclass(frozen=True)
class NamedColumn:
    """`name`, or `name?`: skipped where the extract has no such column."""

    name: Name
    optional: bool


@dataclass(frozen=True)
class EveryColumn:
    """`*`"""

    span: SourceSpan = field(compare=False, repr=False)


@dataclass(frozen=True)
class MatchingColumns:
    """A pattern on the columns' names."""

    pattern: Pattern


@dataclass(frozen=True)
class ColumnFamily:
    """`text columns`, `numeric columns`, `date columns`."""

    family: str
    span: SourceSpan = field(compare=False, repr=False)


ColumnItem: TypeAlias = NamedColumn | EveryColumn | MatchingColumns | ColumnFamily


@dataclass(frozen=True)
class ColumnSelector:
    """The columns of `included` without those of `excluded`."""

    included: tuple[ColumnItem, ...]
    excluded: tuple[ColumnItem, ...]
    span: SourceSpan = field(compare=False, repr=False)


def read_columns(cursor: Cursor) -> ColumnSelector:
    cursor.skip()
    start = cursor.offset
    included = read_list(cursor, _read_item)
    excluded: tuple[ColumnItem, ...] = ()
    if cursor.take_word("except"):
        excluded = read_list(cursor, _read_item)
    return ColumnSelector(included, excluded, cursor.span(start))


def read_names(cursor: Cursor) -> tuple[Name, ...]:
    """New names, with commas between."""
    return read_list(cursor, read_name)


def read_list(cursor: Cursor, read_item: Callable[[Cursor, bool], Item]) -> tuple[Item, ...]:
    """Items with commas between; one comma may be at the end of the statement."""
    items = [read_item(cursor, False)]
    while cursor.take_mark(",", glued=True):
        if cursor.at_end():
            # The canonical layout has no comma there.
            cursor.tokens.pop()
            break
        items.append(read_item(cursor, True))
    return tuple(items)


def _read_item(cursor: Cursor, after_comma: bool) -> ColumnItem:
    cursor.skip()
    start = cursor.offset
    if cursor.take_mark("*"):
        return EveryColumn(cursor.span(start))
    if cursor.peek() == "/":
        return MatchingColumns(read_pattern(cursor))
    first, second = cursor.peek_words()
    if first in FAMILIES and second == "columns":
        cursor.take_word(first, second)
        return ColumnFamily(first, cursor.span(start))
    name = read_name(cursor, after_comma)
    return NamedColumn(name, cursor.take_mark("?", glued=True))
