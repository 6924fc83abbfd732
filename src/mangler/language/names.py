"""Which columns a statement speaks of by name."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import fields, is_dataclass
from typing import Any

from mangler.language.columns import NamedColumn
from mangler.language.expression import Column
from mangler.language.literals import Name
from mangler.language.statement import Statement


def columns_spoken_of(statement: Statement) -> list[str]:
    """Names in the order of the text, each once: of columns that are there, and of those that are made."""
    return list(dict.fromkeys(_names(statement.values)))


def _names(value: Any) -> Iterator[str]:
    if isinstance(value, Name):
        yield value.value
    elif isinstance(value, NamedColumn):
        yield value.name.value
    elif isinstance(value, Mapping):
        for inner in value.values():
            yield from _names(inner)
    elif isinstance(value, (tuple, list)):
        for inner in value:
            yield from _names(inner)
    elif is_dataclass(value):
        if isinstance(value, Column):
            yield value.name
        for item in fields(value):
            if item.name != "place":
                yield from _names(getattr(value, item.name))
