"""Pieces of plain objects, one per line, read by Arrow's reader: no object of Python's is made for a value.

It is asked only where it gives the same values as the exact way. What it would read otherwise, or where it is known
to fail hard (a line of `null` alone), is looked for in the bytes before, and left to the exact way.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, TypeAlias

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.json

from mangler.formats.json.kinds import EXACT_IN_FLOAT, Facts, Kind, target_of
from mangler.formats.json.splitting import Piece
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import build

Path: TypeAlias = tuple[str, ...]
PLAIN_TYPES = {
    pa.string(): Kind.TEXT,
    pa.bool_(): Kind.BOOLEAN,
    pa.int64(): Kind.INTEGER,
    pa.float64(): Kind.FLOAT,
}
MOST_COLUMNS = 1000
CARRIAGE_RETURN = 13
NESTED = r":[ \t]*[\[{]"
LONG_NUMBERS = r"[0-9.]{17}|[0-9.][eE][+-]?[0-9]{3}"
"""Numbers that a float may not hold. Texts may look like either, which costs time and no more."""


def plain_schema(facts: Mapping[Path, Facts]) -> Any | None:
    """The columns of a file as far as it was read; None where not all of them are plain values of one kind."""
    if not 0 < len(facts) <= MOST_COLUMNS:
        return None
    fields = []
    for path, seen in facts.items():
        target = target_of(seen)
        if (
            len(path) > 1
            or target is None
            or target.mixed
            or target.is_tree
            or target.type not in PLAIN_TYPES
        ):
            return None
        fields.append((path[0], target.type))
    return pa.schema(fields)


def flat_columns(piece: Piece, schema: Any) -> Any | None:
    """The objects of a piece as a record batch with these columns; None where the exact way must read them."""
    if not _is_plain(piece, schema):
        return None
    content = piece.content
    try:
        table = pyarrow.json.read_json(
            pa.BufferReader(content),
            pyarrow.json.ReadOptions(use_threads=False, block_size=len(content) + 1),
            pyarrow.json.ParseOptions(explicit_schema=schema, unexpected_field_behavior="error"),
        )
    except (pa.ArrowException, UnicodeDecodeError):
        return None
    if table.num_rows != len(piece) or table.schema != schema:
        return None
    record = table.combine_chunks().to_batches()[0]
    return record if all(map(_is_exact, record.columns)) else None


def _is_plain(piece: Piece, schema: Any) -> bool:
    """Whether each line is one object, in UTF-8, without objects or lists in it, and without long numbers.

    As no text of JSON holds a line feed, lines that all start and end with a brace are objects on lines of their own
    if there are as many objects as lines. Nothing here keeps other threads waiting.
    """
    data = np.frombuffer(piece.content, np.uint8)
    starts, ends = piece.starts - piece.offset, piece.ends - piece.offset
    if starts[0] or ends[-1] + 1 != len(data) or (starts[1:] != ends[:-1] + 1).any():
        return False  # blank lines
    lasts = data[ends - 1]
    lasts = np.where(lasts == CARRIAGE_RETURN, data[ends - 2], lasts)
    if (data[starts] != ord("{")).any() or (lasts != ord("}")).any():
        return False
    whole = build(piece.content, np.array([0, len(data)], np.int32), None)
    doubtful = NESTED if pa.float64() not in schema.types else f"{NESTED}|{LONG_NUMBERS}"
    if pc.match_substring_regex(whole.view(pa.binary()), doubtful)[0].as_py():
        return False
    try:
        whole.validate(full=True)
    except pa.ArrowInvalid:
        return False
    return True


def _is_exact(column: ColumnArray) -> bool:
    """Whether no number of the column may have been rounded, or is none that JSON has, or is a whole `-0`."""
    if not pa.types.is_floating(column.type):
        return True
    numbers = np.asarray(column.fill_null(1.0) if column.null_count else column)
    return bool((np.abs(numbers) < EXACT_IN_FLOAT).all()) and not np.signbit(numbers[numbers == 0]).any()


def facts_of_column(column: ColumnArray) -> Facts:
    """What is seen of a piece of a column."""
    if column.null_count == len(column):
        return Facts()
    facts = Facts({PLAIN_TYPES[column.type]})
    if pa.types.is_integer(column.type):
        range_of = pc.min_max(column).as_py()
        facts.least, facts.greatest = min(0, range_of["min"]), max(0, range_of["max"])
    return facts
