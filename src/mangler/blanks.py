"""White space as the recipe language means it: what a person would call blank.

Unicode's White_Space property, and the marks of no width that come along with pasted text.
"""

from __future__ import annotations

LINE_BREAKS = "\n\r\x0b\x0c\x85\u2028\u2029"
SPACES = "\t \xa0\u1680\u2000\u2001\u2002\u2003\u2004\u2005\u2006\u2007\u2008\u2009\u200a\u202f\u205f\u3000"
ZERO_WIDTH = "\u200b\u2060\ufeff"
BLANKS = LINE_BREAKS + SPACES + ZERO_WIDTH


def _ranges(characters: str) -> list[tuple[int, int]]:
    ranges: list[tuple[int, int]] = []
    for code in sorted(map(ord, characters)):
        if ranges and ranges[-1][1] == code - 1:
            ranges[-1] = (ranges[-1][0], code)
        else:
            ranges.append((code, code))
    return ranges


def _spell(ranges: list[tuple[int, int]]) -> str:
    return "".join(f"\\x{{{low:X}}}-\\x{{{high:X}}}" for low, high in ranges)


def _complement(ranges: list[tuple[int, int]]) -> list[tuple[int, int]]:
    edges = [-1, *(edge for pair in ranges for edge in pair), 0x110000]
    return [(low + 1, high - 1) for low, high in zip(edges[::2], edges[1::2], strict=True)]


BLANK_CLASS = _spell(_ranges(BLANKS))
"""The members of a pattern's class that match one blank, to be between [ and ]."""

NOT_BLANK_RANGES = _spell(_complement(_ranges(BLANKS)))
"""The members of a pattern's class that match anything else."""
