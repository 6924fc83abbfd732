"""What is known of a table before its rows are read: its columns, their order and types."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from functools import cached_property
from typing import SupportsIndex

from mangler.kernels.arrow import ArrowType
from mangler.late_dataclass import dataclass


class ValueType(StrEnum):
    TEXT = "text"
    INTEGER = "integer"
    FLOAT = "float"
    DECIMAL = "decimal"
    BOOLEAN = "boolean"
    DATE = "date"
    TIME = "time"
    TIMESTAMP = "timestamp"
    LIST = "list"
    OTHER = "other"
    """A type of a file that steps do not work on: they hand it on as it is."""


FAMILIES = {
    "text": {ValueType.TEXT},
    "numeric": {ValueType.INTEGER, ValueType.FLOAT, ValueType.DECIMAL},
    "date": {ValueType.DATE, ValueType.TIMESTAMP},
}


class Names(list[str]):
    """The names of columns, each of which is there once; where one is is known without a search."""

    @cached_property
    def indexes(self) -> dict[str, int]:
        return {name: index for index, name in enumerate(self)}

    def __contains__(self, name: object) -> bool:
        return name in self.indexes

    def index(self, name: str, *bounds: SupportsIndex) -> int:  # noqa: ARG002
        try:
            return self.indexes[name]
        except KeyError:
            raise ValueError(f"{name!r} is not among the names") from None


@dataclass(frozen=True)
class Column:
    """`stored` is the Arrow type in which it is written, where that is not the usual one of its type."""

    name: str
    type: ValueType = ValueType.TEXT
    stored: ArrowType = None

    def renamed(self, name: str) -> Column:
        return Column(name, self.type, self.stored)


@dataclass(frozen=True)
class Schema:
    """The columns in their order. `gone` are names that an earlier step took away, with its line."""

    columns: tuple[Column, ...]
    gone: tuple[tuple[str, int], ...] = ()

    @classmethod
    def of_text(cls, names: Iterable[str]) -> Schema:
        return cls(tuple(Column(name) for name in names))

    @cached_property
    def names(self) -> Names:
        """In their order; asked for once, and not to be changed."""
        return Names(column.name for column in self.columns)

    def pick(self, indices: Iterable[int], line: int) -> Schema:
        """The schema with only these columns, in this order, after the step of this line."""
        kept = list(indices)
        chosen = set(kept)
        lost = [(column.name, line) for i, column in enumerate(self.columns) if i not in chosen]
        return Schema(tuple(self.columns[i] for i in kept), (*self.gone, *lost))
