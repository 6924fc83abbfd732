"""The shapes of texts: what is left of them when every digit is a 9 and every run of letters one a.

Numbers, dates and codes have few shapes however many values there are, so that what they look like can be asked
once a shape.
"""

from __future__ import annotations

import numpy as np
import pyarrow.compute as pc

from mangler.kernels import compiled
from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.text_view import Bytes, Flags, Offsets, TextArray, build, view, with_text

LONGEST = 48
"""Bytes of a text that has a shape; a longer one is prose, and has the empty shape."""
DIGIT, LETTER, SYMBOL, REST = ord("9"), ord("a"), ord("$"), 0xFF
"""REST marks the further bytes of a character, which are left out."""
SYMBOL_LEADS = (0xC2, 0xE2)
"""First bytes of the characters U+0080 to U+00BF and U+2000 to U+2FFF: signs, dashes, units, currencies."""


def _table() -> bytes:
    table = bytearray(range(256))
    for byte in range(256):
        if byte >= 0xC0:
            table[byte] = SYMBOL if byte in SYMBOL_LEADS else LETTER
        elif byte >= 0x80:
            table[byte] = REST
        elif chr(byte).isalpha():
            table[byte] = LETTER
        elif chr(byte).isdigit():
            table[byte] = DIGIT
    return bytes(table)


_TABLE = _table()


def shapes(array: TextArray) -> TextArray:
    """The shape of each text, empty for long ones; a sign beyond ASCII is a $. Nulls stay."""
    if compiled.looks is not None:
        return with_text(array, *compiled.looks.shapes(array, _TABLE, LONGEST, LETTER, REST))
    cells = view(array)
    long = cells.lengths > LONGEST
    if long.any():
        array = pc.if_else(from_numpy(long), "", array)
        cells = view(array)
    if not len(cells.data):
        return array
    mapped: Bytes = np.frombuffer(cells.data.tobytes().translate(_TABLE), np.uint8)
    offsets = cells.offsets
    if cells.data.max() >= 0x80:
        mapped, offsets = _without(mapped, offsets, mapped == REST)
    goes = np.zeros(len(mapped), np.bool_)
    np.equal(mapped[1:], mapped[:-1], out=goes[1:])
    goes &= mapped == LETTER
    opens = offsets[:-1]
    goes[opens[opens < len(mapped)]] = False
    return build(*_without(mapped, offsets, goes), cells.valid)


def shapes_met(array: TextArray) -> tuple[list[str], Offsets]:
    """The shapes that there are, in the order in which they come first, and for each cell the number of its shape.

    No cell is null.
    """
    found = None
    if compiled.looks is not None:
        found = compiled.looks.shape_codes(array, _TABLE, LONGEST, LETTER, REST)
    if found is None:
        encoded = as_dictionary(shapes(array))
        return encoded.dictionary.to_pylist(), np.asarray(encoded.indices)
    codes, content, offsets = found
    return build(content, offsets, None).to_pylist(), codes


def _without(data: Bytes, offsets: Offsets, goes: Flags) -> tuple[Bytes, Offsets]:
    """Bytes and offsets without some of the bytes."""
    if not goes.any():
        return data, offsets
    kept = np.zeros(len(data) + 1, np.int32)
    np.cumsum(~goes, out=kept[1:])
    return data[~goes], kept[offsets]
