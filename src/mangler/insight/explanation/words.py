"""What the sentences about steps are made of: a statement's own words, and its columns in words."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from mangler.language.columns import (
    ColumnFamily,
    ColumnItem,
    ColumnSelector,
    EveryColumn,
    MatchingColumns,
    NamedColumn,
)
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass

MOST_NAMED = 8

Chosen = Callable[[ColumnSelector], Sequence[str]]
"""The columns that a selector means, where the step is."""


@dataclass(frozen=True)
class Words:
    """A statement, as its sentence asks for it."""

    statement: Statement
    chosen: Chosen

    def has(self, key: str) -> bool:
        return self.statement.has(key)

    def value(self, key: str) -> Any:
        return self.statement.values.get(key)

    def said(self, key: str, without: str = "") -> str:
        """What the recipe says there, on one line, without the word that it begins with."""
        text = " ".join(self.statement.span_of(key).text.split())
        return text.removeprefix(without or key).strip()

    def columns(self, key: str = "columns") -> str:
        """The columns of a selector: `every column`, `kiln and studio`, `the text columns (kiln and 3 more)`."""
        selector: ColumnSelector = self.statement.values[key]
        kinds = [_kind(item) for item in selector.included]
        named = [item for item in selector.included if isinstance(item, NamedColumn)]
        parts = [kind for kind in kinds if kind]
        if named:
            parts.insert(0, listed([_optional(item) for item in named]))
        told = " and ".join(parts)
        if selector.excluded:
            told += " but " + listed([_named(item) for item in selector.excluded])
        if any(kinds):
            found = self.chosen(selector)
            told += f" ({listed(found)})" if found else " (none)"
        return told

    def near(self, what: str) -> str:
        """What `near` allows, as a sentence."""
        if not self.has("near"):
            return ""
        count = self.said("near")
        return f" {what} that differs in up to {count} {'character' if count == '1' else 'characters'} counts too."

    def where(self) -> str:
        return f" Only in rows where {self.said('where')}." if self.has("where") else ""

    def anycase(self) -> str:
        return " Letter case does not count." if self.has("anycase") else ""

    def order(self) -> str:
        """`sorted by` as part of a sentence."""
        return f", in the order of {self.said('sorted by')}" if self.has("sorted by") else ""

    def group(self) -> str:
        """`within` as part of a sentence."""
        if self.has("within all rows"):
            return " over all rows"
        return f" among rows that agree in {self.columns('within')}" if self.has("within") else ""

    def failures(self, fails: str, key: str = "failures", default: str = "stop") -> str:
        """What happens to a row in which something fails; `fails` begins the sentence.

        Nothing where it stops the run without a word: that is so of everything, and is said once.
        """
        if not self.has(key) and default == "stop":
            return ""
        how = self.value(key) if self.has(key) else default
        if how is True:
            how = self.value("value")
        return f" {fails} {_ending(how, self)}."


def _ending(how: Any, words: Words) -> str:
    known = {
        "stop": "is reported, and then nothing is delivered",
        "aside": "is set aside with its row",
        "null": "becomes null",
        "keep": "stays as it is",
        "warn": "is delivered with a warning",
        "unsplit": "stays together in the last column",
        "cut": "is left out",
    }
    if isinstance(how, str):
        return known[how]
    return f"becomes {words.said('value')}" if words.has("value") else "becomes null"


def listed(names: Sequence[str], most: int = MOST_NAMED) -> str:
    """`a`, `a and b`, `a, b and c`, `a, b and 5 more`."""
    if not names:
        return "none"
    if len(names) == 1:
        return names[0]
    rest = len(names) - most
    shown = list(names[:most]) if rest > 1 else list(names)
    last = f"{rest:,} more" if rest > 1 else shown.pop()
    return f"{', '.join(shown)} and {last}"


def _optional(item: NamedColumn) -> str:
    return item.name.value + " where it is there" * item.optional


def _named(item: ColumnItem) -> str:
    return _optional(item) if isinstance(item, NamedColumn) else _kind(item)


def _kind(item: ColumnItem) -> str:
    if isinstance(item, EveryColumn):
        return "every column"
    if isinstance(item, MatchingColumns):
        return f"the columns whose names match {item.pattern.span.text.strip()}"
    if isinstance(item, ColumnFamily):
        return f"the {item.family} columns"
    return ""
