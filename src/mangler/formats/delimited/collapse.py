"""Blocks in which several delimiters in a row are one, and those at the ends of a line are none."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from mangler.formats.delimited.block_reader import Block
from mangler.formats.delimited.records import (
    LINE_FEED,
    RETURN,
    Positions,
    Spelling,
    delimiters_in,
    find_marks,
)
from mangler.kernels.text import bits


def collapsed(block: Block, spelling: Spelling) -> tuple[Block, Positions]:
    """The block with one delimiter for each run between fields, and the records that hold nothing but delimiters.

    These keep one, so that the records stay as many as they are.
    """
    data, size = block.array, len(block.content)
    where = bits.positions(delimiters_in(data, spelling, block.marks))
    where = where[where < size]
    if not len(where):
        return block, np.zeros(0, np.intp)
    apart = np.diff(where) > 1
    firsts, lasts = where[np.append(True, apart)], where[np.append(apart, True)]
    before = np.where(firsts == 0, LINE_FEED, data[firsts - 1])
    after = data[np.minimum(lasts + 1, size - 1)]
    behind = data[np.minimum(lasts + 2, size - 1)]
    leading = before == LINE_FEED
    trailing = (lasts == size - 1) | (after == LINE_FEED)
    trailing |= (after == RETURN) & ((behind == LINE_FEED) | (lasts + 2 >= size))
    keep = np.ones(size, np.bool_)
    keep[where] = False
    keep[firsts[~(leading | trailing) | (leading & trailing)]] = True
    short = data[keep].tobytes()
    blank = block.indexes_at(firsts[leading & trailing])
    marks = find_marks(np.frombuffer(short, np.uint8), spelling)
    return replace(block, content=memoryview(short), marks=marks), blank
