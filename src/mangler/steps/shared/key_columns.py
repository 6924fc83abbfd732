"""Columns whose values are compared from row to row: those after `by`."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from mangler.kernels.keys.order import SortKey
from mangler.language.literals import Name
from mangler.language.mistake import Mistake, wrong_recipe
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.language.usage import parse_usage
from mangler.steps.shared.columnwise import matching_names
from mangler.table.schema import Schema, ValueType
from mangler.table.select import named_columns, quote_name, select
from mangler.table.stored_types import describe_type


def columns_after_by(
    statement: Statement, schema: Schema, usage: str, of_none: str, key: str = "by"
) -> tuple[int, ...]:
    """The places of the columns after `by`, or another word. `of_none` says what would become of rows without any."""
    words = parse_usage(statement.verb, usage).clause_words()
    indices = select(statement.columns(key), schema, statement.verb, matching_names, None, words).indices
    if not indices:
        raise wrong_recipe(
            "no-columns",
            f"no column is meant, so all rows would be {of_none}",
            "Name the columns.",
            statement.span_of(key),
        )
    return indices


def refuse_lists(schema: Schema, indices: Iterable[int], span: SourceSpan, way: str = "") -> None:
    """Lists are not compared. `way` is a further way out, with a hole for the column."""
    for index in indices:
        column = schema.columns[index]
        name = quote_name(column.name)
        if column.type is ValueType.OTHER:
            raise wrong_recipe(
                "wrong-type",
                f'"{column.name}" is {describe_type(column)}, and such values are not compared',
                f"Make a text of it first: convert {name} to text.{way.format(name)}",
                span,
            )
        if column.type is ValueType.LIST:
            raise wrong_recipe(
                "wrong-type",
                f'"{column.name}" is a list, and lists are not compared',
                f'Make a text of it first, make {name} = joined({name}, "; ").{way.format(name)}',
                span,
            )


def sort_keys(
    items: Sequence[Mapping[str, Any]], schema: Schema, anycase: bool = False, nulls_first: bool = False
) -> tuple[tuple[int, ...], tuple[SortKey, ...]]:
    """The places of columns that rows are sorted by, and how each sorts; `items` are a statement's list of them."""
    indices = named_columns([item["column"] for item in items], schema)
    for item, index in zip(items, indices, strict=True):
        column = schema.columns[index]
        if column.type is ValueType.OTHER:
            what = describe_type(column)
            way = f"Make a text of it first: convert {quote_name(column.name)} to text."
        elif column.type is ValueType.LIST:
            what = "a list"
            way = f'Sort by a text or a number of it: joined({column.name}, ";"), size({column.name}).'
        else:
            continue
        raise wrong_recipe(
            "wrong-type", f'"{column.name}" is {what}, which has no order', way, item["column"].span
        )
    keys = tuple(SortKey("descending" in item, anycase, nulls_first) for item in items)
    return tuple(indices), keys


def said_twice(
    names: Sequence[Name], message: str = "is said twice", way: str = "Say each column once."
) -> list[Mistake]:
    """Names that are in a list a second time."""
    mistakes, seen = [], set()
    for name in names:
        if name.value in seen:
            mistakes.append(Mistake("said-twice", f'"{name.value}" {message}', way, name.span))
        seen.add(name.value)
    return mistakes
