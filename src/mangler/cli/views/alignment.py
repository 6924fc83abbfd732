"""How one text becomes another: word by word, and within words that were exchanged character by character."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import TypeAlias

Stretch: TypeAlias = tuple[int, int, int, int, bool]
"""Start and end in the first text, start and end in the second, and whether they are equal."""

PIECE = re.compile(r"\w+|.", re.DOTALL)
MOST_PAIRS = 40_000
"""Pairs of pieces that are compared with each other; of larger texts only the ends are compared."""
LEAST_ALIKE = 0.4
"""Texts less alike than this are taken as exchanged whole: pieces that agree by chance only confuse."""

LEAST_ALIKE_WORDS = 0.6


def align(first: str, second: str) -> list[Stretch]:
    """The stretches of both texts, in their order, equal and unequal in turn."""
    ours, theirs = PIECE.findall(first), PIECE.findall(second)
    start = _shared_front(ours, theirs)
    end = _shared_front(ours[start:][::-1], theirs[start:][::-1])
    inner = (len(ours) - start - end) * (len(theirs) - start - end)
    if inner > MOST_PAIRS:
        steps = [(True, True, True)] * start
        steps += [(True, False, False)] * (len(ours) - start - end)
        steps += [(False, True, False)] * (len(theirs) - start - end)
        steps += [(True, True, True)] * end
    else:
        middle = _cheapest(ours[start : len(ours) - end], theirs[start : len(theirs) - end])
        steps = [(True, True, True)] * start + middle + [(True, True, True)] * end
    stretches: list[Stretch] = []
    i = j = a = b = 0
    for in_first, in_second, equal in steps:
        one = ours[i] if in_first else ""
        other = theirs[j] if in_second else ""
        if not equal and len(one) > 1 and len(other) > 1:
            stretches += _within(one, other, a, b)
        else:
            stretches.append((a, a + len(one), b, b + len(other), equal))
        i, j, a, b = i + in_first, j + in_second, a + len(one), b + len(other)
    joined = _joined(stretches)
    same = sum(stretch[1] - stretch[0] for stretch in joined if stretch[4])
    if same < LEAST_ALIKE * min(len(first), len(second)):
        return [(0, len(first), 0, len(second), False)]
    return joined


def _shared_front(ours: Sequence[str], theirs: Sequence[str]) -> int:
    most = min(len(ours), len(theirs))
    return next((i for i in range(most) if ours[i] != theirs[i]), most)


def _within(one: str, other: str, a: int, b: int) -> list[Stretch]:
    """Two words, one in the place of the other."""
    whole = [(a, a + len(one), b, b + len(other), False)]
    if len(one) * len(other) > MOST_PAIRS:
        return whole
    steps = _cheapest(one, other)
    if sum(equal for _, _, equal in steps) < LEAST_ALIKE_WORDS * max(len(one), len(other)):
        return whole
    stretches = []
    for in_first, in_second, equal in steps:
        stretches.append((a, a + in_first, b, b + in_second, equal))
        a, b = a + in_first, b + in_second
    return stretches


def _cheapest(ours: Sequence[str], theirs: Sequence[str]) -> list[tuple[bool, bool, bool]]:
    """The fewest pieces taken out, put in or exchanged: the edit distance's path (Wagner and Fischer, 1974).

    Each step says whether it takes a piece of the first, of the second, and whether they are equal.
    """
    rows = [list(range(len(theirs) + 1))]
    for i, piece in enumerate(ours, 1):
        above, row = rows[-1], [i]
        for j, other in enumerate(theirs, 1):
            row.append(min(above[j - 1] + (piece != other), above[j] + 1, row[j - 1] + 1))
        rows.append(row)
    steps: list[tuple[bool, bool, bool]] = []
    i, j = len(ours), len(theirs)
    while i or j:
        if i and j and rows[i][j] == rows[i - 1][j - 1] + (ours[i - 1] != theirs[j - 1]):
            steps.append((True, True, ours[i - 1] == theirs[j - 1]))
            i, j = i - 1, j - 1
        elif i and rows[i][j] == rows[i - 1][j] + 1:
            steps.append((True, False, False))
            i -= 1
        else:
            steps.append((False, True, False))
            j -= 1
    return steps[::-1]


def _joined(stretches: Sequence[Stretch]) -> list[Stretch]:
    """Neighbours of one kind as one."""
    joined: list[Stretch] = []
    for stretch in stretches:
        if joined and joined[-1][4] == stretch[4]:
            before = joined.pop()
            stretch = (before[0], stretch[1], before[2], stretch[3], stretch[4])
        joined.append(stretch)
    return joined
