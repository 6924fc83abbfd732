"""Texts that a replacement, or a split, left in another letter case or with other white space: for advice."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow.compute as pc

from mangler.blanks import BLANK_CLASS
from mangler.kernels import compiled
from mangler.kernels.text.delimiters import occurrences
from mangler.kernels.text.patterns import escape, flags_of, matches
from mangler.kernels.text.replace import Swap, finds, in_few_values
from mangler.kernels.text.text_view import Bytes, Flags, Positions, TextArray, cells_at, view


def left_by_case(array: TextArray, swaps: Sequence[Swap]) -> Flags:
    """Cells where a text is in another letter case only; for the summary's advice."""
    cased = [swap for swap in swaps if not swap.is_pattern and swap.match.lower() != swap.match.upper()]
    nothing = np.zeros(len(array), np.bool_)
    if not cased:
        return nothing
    cells = view(array)
    capitals = bool(((cells.data - np.uint8(65)) < 26).any())
    if not capitals and all(swap.match.isascii() and swap.match.islower() for swap in cased):
        return nothing
    data = cells.data.tobytes()
    folded = data.translate(_LOWER)
    flags = nothing
    for swap in cased:
        spelled = swap.match.encode()
        ascii_only = swap.match.isascii()
        # Counting both ways over the whole column is far cheaper than a test per cell, and mostly settles it.
        if ascii_only and _are_as_many(folded, spelled.translate(_LOWER), data, [spelled]):
            continue
        flags = flags | flags_of(pc.match_substring(array, pattern=swap.match, ignore_case=True))
    return flags & ~finds(array, swaps, False) if flags.any() else flags


def left_by_case_anywhere(array: TextArray, texts: Sequence[str]) -> Flags:
    """Cells that hold one of these texts in another letter case, whatever else they hold; for advice."""
    texts = [text for text in dict.fromkeys(texts) if text.isascii() and text.lower() != text.upper()]
    if not texts:
        return np.zeros(len(array), np.bool_)
    few = in_few_values(array)
    if few is not None:
        codes = np.asarray(few.indices.fill_null(len(few.dictionary)))
        found: Flags = np.append(left_by_case_anywhere(few.dictionary, texts), False)[codes]
        return found
    flags = np.zeros(len(array), np.bool_)
    alike: dict[str, list[str]] = {}
    for text in texts:
        alike.setdefault(text.lower(), []).append(text)
    if compiled.texts is not None:
        for lower, spelled in alike.items():
            ways = [text.encode() for text in spelled]
            compiled.texts.cased_otherwise(array, lower.encode(), ways, flags.view(np.uint8))
        return flags
    cells = view(array)
    data = cells.data.tobytes()
    folded = data.translate(_LOWER)
    for lower, spelled in alike.items():
        # Counting both ways over the whole column is far cheaper than a look at each place, and mostly settles it.
        if _are_as_many(folded, lower.encode(), data, [text.encode() for text in spelled]):
            continue
        places = _places(np.frombuffer(folded, np.uint8), lower)
        for text in spelled:
            as_spelled = np.ones(len(places), np.bool_)
            for distance, byte in enumerate(text.encode()):
                as_spelled &= cells.data[places + distance] == byte
            places = places[~as_spelled]
        owner = cells_at(cells.offsets, places)
        flags[owner[cells.ends[owner] >= places + len(lower)]] = True
    return cells.only_valid(flags)


def _are_as_many(folded: bytes, lower: bytes, data: bytes, spelled: Sequence[bytes]) -> bool:
    """Whether a text is as often in the folded bytes as its spellings are in the bytes.

    Bytes are counted from the left without overlaps: `aa` is once in `aaa`, and once in `Aaa`. So nothing is known of
    a text that may overlap itself.
    """
    if any(lower.endswith(lower[:size]) for size in range(1, len(lower))):
        return False
    return folded.count(lower) == sum(map(data.count, spelled))


def _places(data: Bytes, text: str) -> Positions:
    """Where an ASCII text is in the bytes of a column, also across two cells."""
    if len(text) == 1:
        return np.flatnonzero(data == ord(text))
    return occurrences(data, text.encode())


_LOWER = bytes(byte + 32 if 65 <= byte <= 90 else byte for byte in range(256))


def left_by_space(array: TextArray, swaps: Sequence[Swap], anycase: bool) -> Flags:
    """Cells where a text with spaces inside is with other white space; for the summary's advice."""
    spaced = [swap.match for swap in swaps if not swap.is_pattern and " " in swap.match.strip()]
    if not spaced:
        return np.zeros(len(array), np.bool_)
    run = f"[{BLANK_CLASS}]+"
    loose = "|".join(run.join(escape(word) for word in text.split()) for text in spaced)
    flags = matches(array, f"(?i:{loose})" if anycase else loose)
    return flags & ~finds(array, swaps, anycase) if flags.any() else flags
