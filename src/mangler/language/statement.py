"""A statement as it was read: its verb, its values by clause, and everything the formatter needs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import Any, TypeVar, cast

from mangler.language.columns import ColumnSelector
from mangler.language.cursor import Comment, Token
from mangler.language.literals import Name, Number, Text
from mangler.language.scope import NO_NAMES, Scope
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass

Wanted = TypeVar("Wanted")


@dataclass(frozen=True)
class Stretch:
    """The tokens of one part of the usage line; `rank` is that part's place in the line."""

    rank: int
    is_clause: bool
    tokens: tuple[Token, ...]
    comments: tuple[Comment, ...]


@dataclass(frozen=True)
class Statement:
    """One step of a recipe.

    `values` holds what was said, by clause: a value under the words before it in its clause (`with`,
    `header row`), or under its kind (`columns`) when no word is before it; a clause of words alone is
    there with True, a choice with the word chosen. Two statements are equal when they mean the same.
    """

    verb: str
    values: Mapping[str, Any]
    span: SourceSpan = field(compare=False, repr=False)
    stretches: tuple[Stretch, ...] = field(default=(), compare=False, repr=False)
    spans: Mapping[str, SourceSpan] = field(default_factory=dict, compare=False, repr=False)
    scope: Scope = field(default=NO_NAMES, compare=False, repr=False)
    """The names that its expressions may use besides columns."""
    null_words: tuple[str, ...] = field(default=(), compare=False, repr=False)
    """Words that mean null in the files of the recipe, as its read statement says."""
    included_from: str = field(default="", compare=False, repr=False)
    """The file it is in, when a recipe includes that."""

    @property
    def line(self) -> int:
        return self.span.line

    @property
    def label(self) -> str:
        """The line, and before it the file where that is an included one."""
        return f"{self.included_from}:{self.line}" if self.included_from else str(self.line)

    def has(self, key: str) -> bool:
        return key in self.values

    def get(self, key: str, kind: type[Wanted]) -> Wanted | None:
        """The value of a clause, or None when it was not said."""
        value = self.values.get(key)
        assert value is None or isinstance(value, kind), f"{self.verb}: {key} is no {kind.__name__}"
        return value

    def columns(self, key: str = "columns") -> ColumnSelector:
        value = self.get(key, ColumnSelector)
        assert value is not None
        return value

    def text(self, key: str) -> Text | None:
        return self.get(key, Text)

    def number(self, key: str) -> int | None:
        """A whole number."""
        number = self.get(key, Number)
        return None if number is None else int(number.value)

    def names(self, key: str) -> tuple[Name, ...] | None:
        return cast("tuple[Name, ...] | None", self.get(key, tuple))

    def choice(self, key: str) -> str | None:
        return self.get(key, str)

    def span_of(self, key: str) -> SourceSpan:
        """Where a clause is; the whole statement when it was not said."""
        return self.spans.get(key, self.span)
