"""Finds numbers in JSON whose value a float, or 64 bits, would change: by their bytes, before anything is parsed."""

from __future__ import annotations

import re
from collections.abc import Sequence

LONG = 17
"""Digits, with a point, up to which a float holds every number."""
LARGEST, LEAST = 2**64 - 1, -(2**63)
MOST_DIGITS = 4000
"""Python refuses to read longer integers."""
LONG_NUMBER = re.compile(rb"-?[0-9]{19,}|-?(?=[0-9.]{17})[0-9]+\.[0-9]+|[0-9.][eE][+-]?[0-9]{3,}")
"""What may be such a number. Texts may hold it too, which costs time and no more."""


KINDS = bytes(
    ord("1")
    if chr(byte) in "0123456789."
    else ord("e")
    if chr(byte) in "eE"
    else ord("s")
    if chr(byte) in "+-"
    else 0
    for byte in range(256)
)
"""Each byte as what it can be in a number."""
SIGNS_OF_LONG = (b"1" * LONG, b"1e111", b"1es111")


def may_have_long_number(content: bytes) -> bool:
    """Whether there may be one: many digits follow each other somewhere, or there may be an exponent."""
    kinds = content.translate(KINDS)
    return any(sign in kinds for sign in SIGNS_OF_LONG)


def lines_with_long_numbers(lines: Sequence[bytes], whole: bytes) -> list[int]:
    """The indexes of lines that hold such a number; `whole` is all of them together."""
    if not may_have_long_number(whole):
        return []
    return [index for index, line in enumerate(lines) if may_have_long_number(line) and has_long_number(line)]


def has_long_number(content: bytes) -> bool:
    """Whether there is a number whose value a float, or 64 bits, would change."""
    return any(_is_changed(found.group()) for found in LONG_NUMBER.finditer(content))


def _is_changed(number: bytes) -> bool:
    if b"e" in number.lower():
        return True
    if b"." not in number:
        return not LEAST <= int(number[:MOST_DIGITS]) <= LARGEST
    return repr(float(number)) != number.decode().rstrip("0")
