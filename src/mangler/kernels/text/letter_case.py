"""Letter cases of whole cells."""

from __future__ import annotations

import pyarrow.compute as pc

from mangler.kernels.text.replace import occurs
from mangler.kernels.text.text_view import TextArray

APOSTROPHES = ("'", "\u2019")
SMALL_WITHOUT_CAPITAL = "\u0138\u018d\u01aa\u01ba\u0221\u0234\u0235\u0236"
"""Small letters that have no capital: Arrow's title case takes them for the inside of a word."""


def title_case(array: TextArray) -> TextArray:
    """Each word's first letter as a capital, the others small.

    Words are runs of letters and digits with apostrophes inside: `odd's` becomes `Odd's`, `2ND` becomes `2nd`.
    """
    free = [letter for letter in SMALL_WITHOUT_CAPITAL if not occurs(array, letter)]
    if len(free) < 3:
        return pc.utf8_title(array)
    joined = pc.replace_substring_regex(array, pattern=r"(\p{N})(\p{L})", replacement=f"\\1{free[2]}\\2")
    for apostrophe, stand_in in zip(APOSTROPHES, free, strict=False):
        joined = pc.replace_substring_regex(
            joined, pattern=f"(\\p{{L}}){apostrophe}(\\p{{L}})", replacement=f"\\1{stand_in}\\2"
        )
    titled = pc.replace_substring(pc.utf8_title(joined), pattern=free[2], replacement="")
    for apostrophe, stand_in in zip(APOSTROPHES, free, strict=False):
        titled = pc.replace_substring(titled, pattern=stand_in, replacement=apostrophe)
    return titled


def sentence_case(array: TextArray) -> TextArray:
    """The cell's first letter as a capital, wherever it is, and all others small."""
    small = pc.utf8_lower(array)
    parts = pc.extract_regex(small, pattern=r"(?s)^(?P<before>[^\p{L}]*)(?P<first>\p{L}?)(?P<rest>.*)$")
    first = pc.utf8_upper(pc.struct_field(parts, "first"))
    return pc.binary_join_element_wise(
        pc.struct_field(parts, "before"), first, pc.struct_field(parts, "rest"), "", null_handling="emit_null"
    )
