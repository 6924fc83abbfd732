"""Which rows of two tables belong together. Rows are known by numbers here: of their keys, and of their content."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterable

import numpy as np
import numpy.typing as npt

from mangler.kernels.keys.row_hashes import Hashes
from mangler.late_dataclass import dataclass

Places = npt.NDArray[np.int64]
HalvesOf = Callable[[Places, Places], Iterable[tuple[Hashes, Hashes]]]
GAP_FACTOR = np.uint64(0x9E3779B97F4A7C15)
AT_ONCE = 1 << 18
"""Pairs that are held against each other at a time, so that no copy of all is made."""
AHEAD = 256
"""Rows that are looked at ahead, where two tables are out of step."""
MOST_PIECES = 1_000_000
"""Runs of rows in another order up to which the rows that moved are counted."""


@dataclass(frozen=True)
class Matching:
    """Places of rows, from 0. Pairs are in the order of the first table; `same` says which are alike in all cells."""

    before: Places
    after: Places
    same: npt.NDArray[np.bool_]
    gone: Places
    come: Places
    moved: int | None
    """Pairs that are not in the order of the others, as few as there can be; None: too many to count."""

    @property
    def changed(self) -> tuple[Places, Places]:
        differs = ~self.same
        return self.before[differs], self.after[differs]


def by_key(keys: tuple[Hashes, Hashes], contents: tuple[Hashes, Hashes]) -> Matching:
    """Rows of the same key belong together. No key comes twice in a table."""
    before, after = same_numbers(*keys)
    same = np.empty(len(before), bool)
    for start in range(0, len(before), AT_ONCE):
        part = slice(start, start + AT_ONCE)
        same[part] = contents[0][before[part]] == contents[1][after[part]]
    return _matching(before, after, same, len(keys[0]), len(keys[1]))


def by_content(contents: tuple[Hashes, Hashes], halves_of: HalvesOf) -> Matching:
    """Rows that are alike belong together. Of the others, in each gap between rows that do: those that are alike in one
    half of their columns, then the first with the first, and so on.

    `halves_of` gives numbers for the halves of rows at these places of both tables.
    """
    before, after = _alike(*contents)
    rest = _others(before, len(contents[0])), _others(after, len(contents[1]))
    in_order = _longest_in_order(after)
    # Rows in quite another order have no gaps that mean anything.
    anchors = (before[in_order], after[in_order]) if in_order is not None else (before[:0], after[:0])
    found = _Pairs(anchors, rest)
    if len(rest[0]) and len(rest[1]):
        for halves in halves_of(*rest):
            found.add_alike(halves)
        found.add_by_rank()
    all_before, all_after = (
        np.concatenate((one, *more)) for one, more in zip((before, after), found.added, strict=True)
    )
    same = np.arange(len(all_before)) < len(before)
    order = np.argsort(all_before, kind="stable")
    return _matching(all_before[order], all_after[order], same[order], len(contents[0]), len(contents[1]))


class _Pairs:
    """Pairs that are found one after the other, in the gaps between those that are known."""

    def __init__(self, anchors: tuple[Places, Places], rest: tuple[Places, Places]) -> None:
        self.anchors = anchors
        self.rest = rest
        self.open = np.arange(len(rest[0])), np.arange(len(rest[1]))
        """Which of the rest have no partner yet."""
        self.added: tuple[list[Places], list[Places]] = [], []

    def _gaps(self) -> tuple[Places, Places]:
        one, other = (
            np.searchsorted(anchor, rest[places])
            for anchor, rest, places in zip(self.anchors, self.rest, self.open, strict=True)
        )
        return one, other

    def add_alike(self, numbers: tuple[Hashes, Hashes]) -> None:
        """Rows of one gap with the same number."""
        gaps = self._gaps()
        with np.errstate(over="ignore"):
            mixed = [
                own[places] ^ ((gap.astype(np.uint64) + np.uint64(1)) * GAP_FACTOR)
                for own, places, gap in zip(numbers, self.open, gaps, strict=True)
            ]
        one, other = _alike(mixed[0], mixed[1])
        in_order = _longest_in_order(self.rest[1][self.open[1][other]])
        if in_order is not None:
            one, other = one[in_order], other[in_order]
            self._take(one, other)

    def add_by_rank(self) -> None:
        """In each gap the first with the first, and so on."""
        one, other = self._gaps()
        widest = max(len(one), len(other), 1)
        self._take(*same_numbers(one * widest + _ranks(one), other * widest + _ranks(other)))

    def _take(self, one: Places, other: Places) -> None:
        new = self.rest[0][self.open[0][one]], self.rest[1][self.open[1][other]]
        for added, places in zip(self.added, new, strict=True):
            added.append(places)
        before, after = (np.concatenate(both) for both in zip(self.anchors, new, strict=True))
        order = np.argsort(before, kind="stable")
        self.anchors = before[order], after[order]
        self.open = np.delete(self.open[0], one), np.delete(self.open[1], other)


def _matching(
    before: Places, after: Places, same: npt.NDArray[np.bool_], rows: int, rows_now: int
) -> Matching:
    moved: int | None = 0
    if not (after[1:] > after[:-1]).all():
        in_order = _longest_in_order(after)
        moved = None if in_order is None else len(after) - len(in_order)
    return Matching(before, after, same, _others(before, rows), _others(after, rows_now), moved)


def _others(places: Places, rows: int) -> Places:
    there = np.ones(rows, bool)
    there[places] = False
    return np.flatnonzero(there)


def same_numbers(one: npt.NDArray[np.generic], other: npt.NDArray[np.generic]) -> tuple[Places, Places]:
    """The places of numbers that both have, none of them twice, in the order of the first.

    Two tables of the same rows mostly have them in the same order: such runs need neither a sort nor its memory.
    """
    runs = _runs_in_step(one, other)
    places = _spread([start for start, _, _ in runs], [length for _, _, length in runs])
    partners = _spread([start for _, start, _ in runs], [length for _, _, length in runs])
    rest, rest_now = _others(places, len(one)), _others(partners, len(other))
    if not len(rest) or not len(rest_now):
        return places, partners
    more, more_partners = _same_by_sorting(one[rest], other[rest_now])
    if not len(more):
        return places, partners
    places, partners = np.append(places, rest[more]), np.append(partners, rest_now[more_partners])
    sorting = np.argsort(places, kind="stable")
    return places[sorting], partners[sorting]


def _runs_in_step(one: npt.NDArray[np.generic], other: npt.NDArray[np.generic]) -> list[tuple[int, int, int]]:
    """Runs of equal numbers, side by side, as far as a look a little way ahead finds them: start, start, length."""
    runs: list[tuple[int, int, int]] = []
    at, at_now, wide = 0, 0, AHEAD
    left = len(one) // 1_000 + 1_000
    while at < len(one) and at_now < len(other) and left:
        length = min(wide, len(one) - at, len(other) - at_now)
        equal = one[at : at + length] == other[at_now : at_now + length]
        same = length if equal.all() else int(equal.argmin())
        if same:
            runs.append((at, at_now, same))
        at, at_now, wide = at + same, at_now + same, wide * 2
        if same < length:  # one of them has rows more here
            wide, left = AHEAD, left - 1
            _, here, there = np.intersect1d(
                one[at : at + AHEAD], other[at_now : at_now + AHEAD], assume_unique=True, return_indices=True
            )
            if len(here):
                nearest = int((here + there).argmin())
                at, at_now = at + int(here[nearest]), at_now + int(there[nearest])
            else:
                at, at_now = at + AHEAD, at_now + AHEAD
    return runs


def _spread(starts: list[int], lengths: list[int]) -> Places:
    """Every place of some runs."""
    places = np.empty(sum(lengths), np.int64)
    at = 0
    for start, length in zip(starts, lengths, strict=True):
        places[at : at + length] = np.arange(start, start + length)
        at += length
    return places


def _same_by_sorting(one: npt.NDArray[np.generic], other: npt.NDArray[np.generic]) -> tuple[Places, Places]:
    order, mine = np.argsort(other), np.argsort(one)
    ordered, wanted = other[order], one[mine]  # looked up in order, which is many times faster
    found = np.searchsorted(ordered, wanted)
    found[found == len(ordered)] = 0
    there = np.flatnonzero(ordered[found] == wanted) if len(ordered) else np.empty(0, np.int64)
    places, partners = mine[there], order[found[there]]
    sorting = np.argsort(places)
    return places[sorting], partners[sorting]


def _alike(one: Hashes, other: Hashes) -> tuple[Places, Places]:
    """Places of equal numbers in pairs: the first of a number with the first of the other, and so on."""
    order, order_now = np.argsort(one, kind="stable"), np.argsort(other, kind="stable")
    values, starts, times = _runs(one[order])
    values_now, starts_now, times_now = _runs(other[order_now])
    here, there = same_numbers(values, values_now)
    pairs = np.minimum(times[here], times_now[there])
    rank = _counted_up(pairs)
    before = order[np.repeat(starts[here], pairs) + rank]
    after = order_now[np.repeat(starts_now[there], pairs) + rank]
    sorting = np.argsort(before, kind="stable")
    return before[sorting], after[sorting]


def _runs(ordered: Hashes) -> tuple[Hashes, Places, Places]:
    """The values of sorted numbers, where each starts, and how often it comes."""
    if not len(ordered):
        return ordered, np.empty(0, np.int64), np.empty(0, np.int64)
    starts = np.flatnonzero(np.append(True, ordered[1:] != ordered[:-1]))
    return ordered[starts], starts, np.diff(np.append(starts, len(ordered)))


def _counted_up(times: Places) -> Places:
    """0, 1, 2 … for each of these numbers, so many of them."""
    total = int(times.sum())
    return np.arange(total) - np.repeat(np.cumsum(times) - times, times)


def _ranks(gaps: Places) -> Places:
    """The how manieth of its gap each is; gaps are in order."""
    if not len(gaps):
        return gaps
    starts = np.flatnonzero(np.append(True, gaps[1:] != gaps[:-1]))
    return _counted_up(np.diff(np.append(starts, len(gaps))))


def _longest_in_order(places: Places) -> Places | None:
    """Which of these places are in increasing order, as many as can be; None where that takes too long to say.

    Stretches of neighbours move together: what is looked for is the heaviest increasing sequence of stretches.
    """
    steps = np.diff(places)
    if (steps > 0).all():
        return np.arange(len(places))
    starts = np.flatnonzero(np.append(True, steps != 1))
    if len(starts) > MOST_PIECES:
        return None
    lengths = np.diff(np.append(starts, len(places)))
    chosen = _heaviest(places[starts].tolist(), lengths.tolist())
    return np.concatenate([np.arange(starts[one], starts[one] + lengths[one]) for one in chosen])


def _heaviest(values: list[int], weights: list[int]) -> list[int]:
    """The heaviest increasing subsequence. Of each weight that leads somewhere the smallest end is kept."""
    ends: list[int] = []
    best: list[int] = []
    last: list[int] = []
    earlier = [-1] * len(values)
    for number, (value, weight) in enumerate(zip(values, weights, strict=True)):
        at = bisect_left(ends, value)
        total = weight + (best[at - 1] if at else 0)
        earlier[number] = last[at - 1] if at else -1
        if at and best[at - 1] >= total:
            continue
        stop = at
        while stop < len(ends) and best[stop] <= total:
            stop += 1
        ends[at:stop], best[at:stop], last[at:stop] = [value], [total], [number]
    chosen = []
    number = last[-1] if last else -1
    while number >= 0:
        chosen.append(number)
        number = earlier[number]
    return chosen[::-1]
