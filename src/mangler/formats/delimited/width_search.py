"""Columns of a fixed width in a sample of lines: they show in the columns of blanks between them."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

MOST_LINES = 200
LEAST_LINES = 4
MANY_LINES = 10
"""From so many lines on one column of blanks is enough; in fewer, words may meet by chance."""
LEAST_FILLED = 0.5
"""The share of the cells of a column that hold something."""


def find_widths(sample: bytes, comment: bytes = b"") -> tuple[int, ...]:
    """The widths of the columns; none where the lines show fewer than two."""
    lines = [
        line.decode("utf-8", errors="replace").rstrip()
        for line in sample.splitlines()
        if line.strip() and not (comment and line.startswith(comment))
    ][:MOST_LINES]
    if len(lines) < LEAST_LINES or any("\t" in line for line in lines):
        return ()
    width = max(map(len, lines))
    filled = np.zeros((len(lines), width), np.bool_)
    for row, line in enumerate(lines):
        filled[row, : len(line)] = [character != " " for character in line]
    used = np.count_nonzero(filled, axis=0) > 0
    starts = [i for i in range(width) if used[i] and (i == 0 or not used[i - 1])]
    starts[0] = 0
    starts = _supported(filled, starts, width)
    gaps = [start - int(np.flatnonzero(used[:start])[-1]) - 1 for start in starts[1:]]
    if not gaps or (len(lines) < MANY_LINES and min(gaps) < 2):
        return ()
    shares = _shares(filled[1:], starts, width)
    if min(shares) == 0 or sum(share >= LEAST_FILLED for share in shares) < 0.7 * len(shares):
        return ()
    ends = [*starts[1:], width]
    return tuple(end - start for start, end in zip(starts, ends, strict=True))


def _supported(filled: npt.NDArray[np.bool_], starts: list[int], width: int) -> list[int]:
    """The starts of columns that have a name, or that most lines fill: others are words of the text before them."""
    named = _shares(filled[:1], starts, width)
    shares = _shares(filled[1:], starts, width)
    return [
        start
        for start, name, share in zip(starts, named, shares, strict=True)
        if not start or name or share >= LEAST_FILLED
    ]


def _shares(filled: npt.NDArray[np.bool_], starts: list[int], width: int) -> list[float]:
    """The share of lines in which each column holds something."""
    ends = [*starts[1:], width]
    return [
        float(np.count_nonzero(filled[:, start:end].max(axis=1))) / len(filled)
        for start, end in zip(starts, ends, strict=True)
    ]
