"""Which columns a statement mentions by name."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import fields, is_dataclass, replace
from typing import Any

from mangler.language.columns import NamedColumn
from mangler.language.expression import Column
from mangler.language.literals import Name
from mangler.language.statement import Statement


def columns_mentioned(statement: Statement) -> list[str]:
    """Names in the order of the text, each once: of columns that are there, and of new columns."""
    names = []
    for part in parts_of(statement.values):
        if isinstance(part, Name):
            names.append(part.value)
        elif isinstance(part, NamedColumn):
            names.append(part.name.value)
        elif isinstance(part, Column):
            names.append(part.name)
    return list(dict.fromkeys(names))


def parts_of(value: Any) -> Iterator[Any]:
    """Everything that a statement or an expression is made from, the whole first."""
    if isinstance(value, Mapping):
        for inner in value.values():
            yield from parts_of(inner)
    elif isinstance(value, (tuple, list)):
        for inner in value:
            yield from parts_of(inner)
    elif is_dataclass(value):
        yield value
        for item in fields(value):
            if item.name != "span":
                yield from parts_of(getattr(value, item.name))


def rebuilt(value: Any, change: Callable[[Any], Any]) -> Any:
    """An expression with other parts in it: `change` gives what takes a part's place, or None to look inside it."""
    if isinstance(value, tuple):
        return tuple(rebuilt(inner, change) for inner in value)
    if not is_dataclass(value) or isinstance(value, type):
        return value
    other = change(value)
    if other is not None:
        return other
    parts = {item.name: getattr(value, item.name) for item in fields(value) if item.name != "span"}
    return replace(value, **{name: rebuilt(part, change) for name, part in parts.items()})
