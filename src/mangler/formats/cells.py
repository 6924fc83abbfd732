"""What formats of text can hold in a cell."""

from __future__ import annotations

from mangler.language.mistake import wrong_recipe
from mangler.table.schema import Schema, ValueType


def refuse_lists(schema: Schema) -> None:
    """Delimited text has no cell for a list."""
    for column in schema.columns:
        if column.type is ValueType.LIST:
            raise wrong_recipe(
                "list-in-cell",
                f'"{column.name}" is a list, which has no place in a cell of delimited text',
                f'Make a text of it: make {column.name} = joined({column.name}, "; ").',
            )
