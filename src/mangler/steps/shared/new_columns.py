"""New columns beside the ones they are made from: where they are, and which names are free."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.taking import take
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.fields import entries_of
from mangler.kernels.text.patterns import few_distinct
from mangler.kernels.text.text_view import Flags
from mangler.language.literals import Name
from mangler.language.mistake import ExitCode, Mistake, Refusal
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import missing_column, quote_name
from mangler.table.stored_types import describe_type

UNWANTED = "_"
"""Written without brackets, the name of a part that makes no column."""
MOST_COLUMNS = 10_000
"""So many columns a step makes of the data at most."""


@dataclass(frozen=True)
class Placement:
    """The columns that come out, each by whether it is new and its place among the new or the old ones."""

    schema: Schema
    order: tuple[tuple[bool, int], ...]

    @property
    def new_names(self) -> list[str]:
        return [self.schema.names[index] for index, (is_new, _) in enumerate(self.order) if is_new]

    def kept(self, new: Sequence[ColumnArray]) -> list[ColumnArray]:
        """The new columns that come out."""
        return [new[index] for is_new, index in self.order if is_new]

    def put(self, old: Sequence[Any], new: Sequence[ColumnArray]) -> list[ColumnArray]:
        """The columns that come out, or their entries."""
        entries = entries_of(old)
        return [new[index] if is_new else entries[index] for is_new, index in self.order]


def placed(
    statement: Statement,
    schema: Schema,
    sources: Sequence[int],
    new: Sequence[tuple[Column, SourceSpan]],
    in_place: bool,
    at_end: bool = False,
) -> Placement:
    """New columns right after the last of their sources; `in_place` where the first one was, and those go.

    A name that is taken is refused; those of columns that go are free. `at_end`: they are behind all others. One
    that is not wanted makes no column.
    """
    staying = [i for i in range(len(schema.columns)) if not in_place or i not in sources]
    wanted = [i for i, (column, span) in enumerate(new) if not is_unwanted(column.name, span)]
    _refuse_taken(schema, staying, [new[i] for i in wanted], [schema.columns[i].name for i in sources])
    order = [(False, index) for index in staying]
    fresh = [(True, index) for index in wanted]
    at = sum(i < min(sources) for i in staying) if in_place else staying.index(max(sources)) + 1
    if at_end:
        at = len(order)
    order[at:at] = fresh
    columns = tuple(new[i][0] if is_new else schema.columns[i] for is_new, i in order)
    names = {column.name for column in columns}
    lost = [(schema.columns[i].name, statement.line) for i in sources if in_place]
    gone = tuple(pair for pair in (*schema.gone, *lost) if pair[0] not in names)
    return Placement(Schema(columns, gone), tuple(order))


def is_unwanted(name: str, span: SourceSpan) -> bool:
    """Whether a name says that its part makes no column: `_`; a column of that name is `[_]`."""
    return name == UNWANTED and span.text == UNWANTED


def _refuse_taken(
    schema: Schema, staying: Sequence[int], new: Sequence[tuple[Column, SourceSpan]], sources: Sequence[str]
) -> None:
    taken = {schema.columns[i].name for i in staying}
    mistakes = []
    for column, span in new:
        if column.name in taken and column.name in schema.names:
            own = " With in place its own name is free." if column.name in sources else ""
            mistakes.append(
                Mistake(
                    "name-taken",
                    f'there is a column "{column.name}" already, and nothing is written over it',
                    f"Take another name, or give that column up first: drop columns {quote_name(column.name)}.{own}",
                    span,
                )
            )
        elif column.name in taken:
            mistakes.append(
                Mistake(
                    "said-twice",
                    f'"{column.name}" is the name of two new columns',
                    "Give each its own.",
                    span,
                )
            )
        taken.add(column.name)
    if mistakes:
        raise Refusal(mistakes, ExitCode.WRONG_FOR_ANY_EXTRACT)


Work = Callable[[Any], tuple[Sequence[Any], Sequence[Any]]]
"""Takes a column; gives new ones, and NumPy arrays with something of note for each cell."""


def apply_per_distinct(
    column: ColumnArray, met: Flags | None, work: Work
) -> tuple[list[ColumnArray], list[Any]]:
    """The work on the rows met, once a distinct value where there are few; null and 0 for null and for other rows."""
    given = column if met is None else column.filter(from_numpy(met))
    if few_distinct(given):
        encoded = as_dictionary(given)
        columns, notes = work(encoded.dictionary)
        codes = np.asarray(encoded.indices.fill_null(len(encoded.dictionary)))
        # Behind the last value is a null, which null has.
        columns = [
            take(pa.concat_arrays([array, pa.nulls(1, array.type)]), codes.astype(np.int64))
            for array in columns
        ]
        notes = [np.append(note, note.dtype.type(0))[codes] for note in notes]
    else:
        columns, notes = work(given)
    if met is None:
        return list(columns), list(notes)
    sources = from_numpy(np.cumsum(met) - 1, nulls=~met)
    spread = [np.zeros(len(met), note.dtype) for note in notes]
    for everywhere, note in zip(spread, notes, strict=True):
        everywhere[met] = note
    return [array.take(sources) for array in columns], spread


def text_column(name: Name, schema: Schema, verb: str) -> int:
    """The place of the one column that a verb works on, which must be text."""
    if name.value not in schema.names:
        mistake, always = missing_column(name, schema)
        raise Refusal([mistake], ExitCode.WRONG_FOR_ANY_EXTRACT if always else ExitCode.ANSWER_IS_NO)
    index = schema.names.index(name.value)
    column = schema.columns[index]
    if column.type is ValueType.TEXT:
        return index
    way = (
        f'make {quote_name(column.name)} = joined({quote_name(column.name)}, "; ")'
        if column.type is ValueType.LIST
        else f"convert {quote_name(column.name)} to text"
    )
    message = Mistake(
        "wrong-type",
        f'{verb} works on text, and "{column.name}" is {describe_type(column)}',
        f"Write {way} first.",
        name.span,
    )
    raise Refusal([message], ExitCode.WRONG_FOR_ANY_EXTRACT)


def check_in_place(statement: Statement) -> list[Mistake]:
    """With `where` the other rows would lose their cell."""
    if not statement.has("in place") or not statement.has("where"):
        return []
    return [
        Mistake(
            "clauses-conflict",
            "in place and where exclude each other: the other rows would lose their cell",
            "Leave in place out, and drop the column when all rows are done.",
            statement.span_of("in place"),
        )
    ]
