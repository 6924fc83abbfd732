"""Values of any type as text: the shortest form that reads back the same, dates and times in ISO 8601."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import TextArray, build, valid_flags
from mangler.kernels.values.other_values import format_others, is_uuid
from mangler.kernels.values.time_text import MOST_AT_ONCE, format_times

DECIMAL_BITS = 128
PLAIN_DECIMAL = pa.decimal128(38, 9)
"""A decimal without stated places; those with them have other digits, and are distinguished so."""


def format_values(array: ColumnArray) -> TextArray:
    """A column as text; nulls stay null. A list has no text form: it is joined before."""
    kind = array.type
    if pa.types.is_string(kind):
        return array
    if pa.types.is_null(kind):
        return pa.nulls(len(array), pa.string())
    if pa.types.is_decimal(kind):
        written = _compiled(array)
        if written is not None:
            return written
        spelled = _plain_decimals(array)
        if kind != PLAIN_DECIMAL:  # its places are stated, and all are written
            return spelled if kind.scale else pc.replace_substring(spelled, pattern=".", replacement="")
        shortened = pc.replace_substring_regex(spelled, pattern=r"(\.[0-9]*?)0+$", replacement=r"\1")
        return pc.replace_substring_regex(shortened, pattern=r"\.$", replacement="")
    if pa.types.is_timestamp(kind) or pa.types.is_time(kind):
        return format_times(array)
    if kind == pa.int64() and compiled.spelled is not None and 0 < len(array) <= MOST_AT_ONCE:
        return _compiled_numbers(
            array, np.frombuffer(array.buffers()[1], np.int64, len(array), 8 * array.offset)
        )
    if pa.types.is_integer(kind) or pa.types.is_floating(kind) or kind in (pa.bool_(), pa.date32()):
        return pc.cast(array, pa.string())
    if pa.types.is_dictionary(kind):
        return format_values(array.dictionary_decode())
    if pa.types.is_large_string(kind) or pa.types.is_string_view(kind) or pa.types.is_date(kind):
        return format_values(pc.cast(array, pa.date32() if pa.types.is_date(kind) else pa.string()))
    if isinstance(kind, pa.BaseExtensionType) and not is_uuid(array):
        return format_values(array.storage)
    return format_others(array)


def _compiled(array: ColumnArray) -> TextArray | None:
    """Decimals whose digits fit into 64 bits; None for others."""
    kind = array.type
    if compiled.spelled is None or kind.bit_width != DECIMAL_BITS or kind.scale < 0:
        return None
    if not 0 < len(array) <= MOST_AT_ONCE:
        return None
    words = np.frombuffer(array.buffers()[1], np.int64, 2 * len(array), 16 * array.offset).reshape(-1, 2)
    fits = words[:, 0] >> 63 == words[:, 1]
    valid = valid_flags(array)
    if not (fits if valid is None else fits | ~valid).all():
        return None
    return _compiled_numbers(array, np.ascontiguousarray(words[:, 0]), kind.scale, kind == PLAIN_DECIMAL)


def _compiled_numbers(
    array: ColumnArray, values: npt.NDArray[np.int64], places: int = 0, shorten: bool = False
) -> TextArray:
    """The column as text, of these numbers with so many places."""
    assert compiled.spelled is not None
    valid = valid_flags(array)
    nulls = np.zeros(len(array), np.uint8) if valid is None else (~valid).view(np.uint8)
    content, offsets = compiled.spelled.numbers(values, nulls, places, shorten)
    return build(content, offsets, valid)


def _plain_decimals(array: ColumnArray) -> TextArray:
    """All places of each decimal. Arrow spells what is nearer to 0 than 0.000001 as 1E-9, and 0 as 0E-9."""
    spelled = pc.cast(array, pa.string())
    exponents = pc.match_substring(spelled, "E")
    if not pc.any(exponents).as_py():
        return spelled
    scale = array.type.scale
    near = pc.cast(pc.if_else(exponents, array, None), pa.decimal128(scale + 1, scale))
    one = pa.scalar(1, near.type)
    negative = pc.less(near, pa.scalar(0, near.type))
    moved = pc.if_else(negative, pc.subtract(near, one), pc.add(near, one))
    text = pc.cast(moved, pa.string())
    plain = pc.if_else(
        negative, pc.binary_replace_slice(text, 1, 2, "0"), pc.binary_replace_slice(text, 0, 1, "0")
    )
    return pc.if_else(exponents, plain, spelled)
