"""Flags of a block's bytes as bits, 64 to a word: what is asked of every byte is asked of 64 at once."""

from __future__ import annotations

from typing import Any, TypeAlias

import numpy as np
import numpy.typing as npt

Words: TypeAlias = npt.NDArray[np.uint64]
ONE, LAST = np.uint64(1), np.uint64(63)


def pack(flags: npt.NDArray[np.bool_]) -> Words:
    """One bit a flag, the first in the lowest bit; a spare word of zeros at the end."""
    packed = np.packbits(flags, bitorder="little")
    words = np.zeros(len(packed) // 8 + 2, np.uint64)
    words.view(np.uint8)[: len(packed)] = packed
    return words


def positions(words: Words) -> npt.NDArray[np.intp]:
    """Where bits are set."""
    return np.flatnonzero(np.unpackbits(words.view(np.uint8), bitorder="little"))


def count(words: Words) -> int:
    return int(np.bitwise_count(words).sum())


def count_up_to(words: Words, end: int) -> int:
    """How many bits are set before this position."""
    whole = end >> 6
    counted = count(words[:whole])
    if whole < len(words):
        counted += int(words[whole] & ((ONE << np.uint64(end & 63)) - ONE)).bit_count()
    return counted


NEAR = 1 << 12
"""Words that are looked through at a time."""


def last(words: Words, end: int) -> int:
    """The last position before `end` that is set; -1 where none is."""
    whole = end >> 6
    beginning = words[whole] & ((ONE << np.uint64(end & 63)) - ONE) if whole < len(words) else np.uint64(0)
    if beginning:
        return (whole << 6) + int(beginning).bit_length() - 1
    for stop in range(whole, 0, -NEAR):
        start = max(0, stop - NEAR)
        filled = np.flatnonzero(words[start:stop])
        if len(filled):
            word = start + int(filled[-1])
            return (word << 6) + int(words[word]).bit_length() - 1
    return -1


def after(words: Words) -> Words:
    """Bit i is set where bit i - 1 was."""
    moved = words << ONE
    moved[1:] |= words[:-1] >> LAST
    return moved


def before(words: Words) -> Words:
    """Bit i is set where bit i + 1 was."""
    moved = words >> ONE
    moved[:-1] |= words[1:] << LAST
    return moved


def odd_so_far(words: Words) -> Words:
    """Bit i is set where the bits up to and with i are an odd number.

    Within a word by doubling strides, over words by the parity of all before; the known way to find what
    is inside quotes without looking at one quote after the other.
    """
    odd = words.copy()
    for stride in (1, 2, 4, 8, 16, 32):
        odd ^= odd << np.uint64(stride)
    parity = np.bitwise_count(words) & np.uint8(1)
    carried = np.zeros(len(words), np.uint8)
    np.bitwise_xor.accumulate(parity[:-1], out=carried[1:])
    odd ^= np.negative(carried.astype(np.uint64))  # all bits where the parity before was odd
    return odd


def are_set(words: Words, at: npt.NDArray[Any]) -> npt.NDArray[np.bool_]:
    """Whether the bits at these positions are set."""
    bits = (words[at >> 6] >> (at & 63).astype(np.uint64)) & ONE
    flags: npt.NDArray[np.bool_] = bits.astype(np.bool_)
    return flags


def counts_between(words: Words, starts: npt.NDArray[Any], ends: npt.NDArray[Any]) -> npt.NDArray[np.intp]:
    """How many bits are set from each start up to its end."""
    counts: npt.NDArray[np.intp] = counts_before(words, ends) - counts_before(words, starts)
    return counts


def counts_before(words: Words, at: npt.NDArray[Any]) -> npt.NDArray[np.intp]:
    """How many bits are set before each of these positions."""
    before_word = np.zeros(len(words), np.int64)
    np.cumsum(np.bitwise_count(words[:-1]), out=before_word[1:], dtype=np.int64)
    index = at >> 6
    below = (ONE << (at & 63).astype(np.uint64)) - ONE
    counts: npt.NDArray[np.intp] = before_word[index] + np.bitwise_count(words[index] & below)
    return counts
