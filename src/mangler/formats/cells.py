"""What formats of text can hold in a cell."""

from __future__ import annotations

from mangler.language.mistake import wrong_recipe
from mangler.table.schema import Schema, ValueType
from mangler.table.select import quote_name
from mangler.table.stored_types import describe_type


def refuse_lists(schema: Schema, place: str = "a cell of delimited text") -> None:
    """Delimited text has no cell for a list, nor for values of types that only some files have."""
    for column in schema.columns:
        if column.type is ValueType.OTHER:
            name = quote_name(column.name)
            raise wrong_recipe(
                "type-not-written",
                f'"{column.name}" is {describe_type(column)}, which {place} cannot hold',
                f"Write convert {name} to text, or drop columns {name}.",
            )
        if column.type is ValueType.LIST:
            raise wrong_recipe(
                "list-in-cell",
                f'"{column.name}" is a list, which {place} cannot hold',
                f'Make a text of it: make {column.name} = joined({column.name}, "; ").',
            )
