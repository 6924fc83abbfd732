"""Columns as JSON: for each cell the text that orjson writes for its value.

A whole column goes through at once, without an object per cell where its type allows it.
"""

from __future__ import annotations

import numpy as np
import orjson
import pyarrow as pa
import pyarrow.compute as pc

from mangler.formats.json.values import DUMP, json_values
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import Bytes, TextArray, build, view
from mangler.kernels.values.format_values import format_values
from mangler.table.stored_types import is_json

NULL = "null"
QUOTE, BACKSLASH, FIRST_PLAIN = ord('"'), ord("\\"), ord(" ")
LINE_BETWEEN = b",\n  "
"""What orjson puts between the elements of an indented list. No text holds it: a line feed is spelled `\\n` there."""


def json_texts(column: ColumnArray) -> TextArray:
    """A text for each cell; null is `null`, and so is a float that is infinite or no number."""
    texts = _texts(column)
    return texts.fill_null(NULL) if texts.null_count else texts


def _texts(column: ColumnArray) -> TextArray:
    kind = column.type
    if pa.types.is_dictionary(kind):
        return _texts(column.dictionary_decode())
    if pa.types.is_integer(kind) or pa.types.is_boolean(kind) or pa.types.is_decimal(kind):
        return format_values(column)
    if pa.types.is_float64(kind):
        return _floats(column)
    if is_json(kind):
        return column.storage
    if pa.types.is_floating(kind) or pa.types.is_nested(kind):
        return pa.array([DUMP(value) for value in json_values(column)], pa.binary()).cast(pa.string())
    return _quoted(format_values(column))


def _quoted(texts: TextArray) -> TextArray:
    if _is_plain(view(texts).data):
        return pc.binary_join_element_wise('"', texts, '"', "")
    written = orjson.dumps(texts.to_pylist(), option=orjson.OPT_INDENT_2)
    elements = written[len(b"[\n  ") : -len(b"\n]")].split(LINE_BETWEEN)
    return pa.array(elements, pa.binary()).cast(pa.string())


def _is_plain(data: Bytes) -> bool:
    """Whether JSON has all these bytes of texts as they are."""
    if not len(data):
        return True
    return bool(data.min() >= FIRST_PLAIN) and not (data == QUOTE).any() and not (data == BACKSLASH).any()


def _floats(column: ColumnArray) -> TextArray:
    numbers = np.asarray(column.fill_null(0.0) if column.null_count else column)
    if not len(numbers):
        return pa.array([], pa.string())
    written = orjson.dumps(numbers, option=orjson.OPT_SERIALIZE_NUMPY)[1:]
    commas = np.flatnonzero(np.frombuffer(written, np.uint8) == ord(","))
    offsets = np.concatenate(([0], commas + 1, [len(written)])).astype(np.int32)
    texts = pc.binary_slice(build(written, offsets, None).cast(pa.binary()), 0, -1).cast(pa.string())
    return pc.if_else(column.is_valid(), texts, None) if column.null_count else texts
