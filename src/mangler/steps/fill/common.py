"""What all ways to fill have in common."""

from __future__ import annotations

import numpy as np
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.blank_bounds import trimmed_bounds
from mangler.kernels.text.text_view import view
from mangler.language.mistake import wrong_recipe
from mangler.language.source import SourceSpan
from mangler.steps.shared.literals import WIDENED
from mangler.table.schema import Column, ValueType
from mangler.table.select import quote_name
from mangler.table.stored_types import describe_type
from mangler.table.tally import Tally

NUMBERS = (ValueType.INTEGER, ValueType.FLOAT, ValueType.DECIMAL)
IDLE = "these columns have no nulls"


def refuse_other_type(column: Column, kind: ValueType, span: SourceSpan) -> None:
    """A value is of the column's type, or a number that the type has a place for."""
    if column.type is kind or (kind, column.type) in WIDENED:
        return
    text = column.type is ValueType.TEXT
    if kind is ValueType.TEXT and column.type in NUMBERS:
        raise wrong_recipe(
            "wrong-type",
            f'"{column.name}" is {describe_type(column)}, and {span.text} is {kind}',
            f"Make it a text first: convert {quote_name(column.name)} to text. Or fill it with a number.",
            span,
        )
    advice = (
        f'Write it as a text, "{span.text}": delimited text is read as text.'
        if text and kind is not ValueType.LIST
        else f"Give a value that is {column.type}; several columns are filled family by family:"
        ' fill text columns with "", fill numeric columns with 0.'
    )
    raise wrong_recipe(
        "wrong-type", f'"{column.name}" is {describe_type(column)}, and {span.text} is {kind}', advice, span
    )


def count_empties(column: ColumnArray, tally: Tally) -> None:
    if not pa.types.is_string(column.type):
        return
    cells = view(column)
    starts, ends = trimmed_bounds(cells.data, cells.starts.astype(np.intp), cells.ends.astype(np.intp))
    tally.counts["empties_left"] += int(np.count_nonzero(cells.only_valid(starts >= ends)))


def advise(tally: Tally) -> list[str]:
    if not tally.counts["empties_left"]:
        return []
    texts = "blank text was" if tally.counts["empties_left"] == 1 else "blank texts were"
    return [f'{tally.counts["empties_left"]:,} {texts} left, being no nulls; to null first: nullify "" in …']
