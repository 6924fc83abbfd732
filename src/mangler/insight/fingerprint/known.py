"""A column as the earlier runs had it, and what counts as news about it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from math import exp, sqrt
from typing import TypeAlias

from mangler.insight.fingerprint.fingerprint import ColumnPrint
from mangler.language.spelling import spell_text
from mangler.late_dataclass import dataclass

LEAST_CELLS = 40
"""Cells of earlier runs from which a column is known well enough to be compared with."""
FEW_CELLS = 3
RARELY = 0.02
UNSEEN = 0.001
LIKELY_NEW = 0.02
"""How many values may be unseen yet, and the chance of a new one, from which one is no news."""
OFTEN = 5
"""Cells that must have had the most parts before, for more to be news."""
MARKED = 0.1
BEYOND_BY_CHANCE, AT_LEAST = 4.5, 0.08
"""Standard deviations of a share, and how much greater it must be at least."""
BEYOND, TIMES_BEYOND = 0.5, 4.0
"""Shares of the known range that a number may lie beyond it, and times the largest one where all are positive."""
MOST_SHOWN, LONGEST_SHOWN = 3, 32
MOST_VALUES_OF_NUMBERS = 15
LEAST_LENGTH, LEAST_VALUES = 3, 8
"""Characters and different values from which one length of all is no chance."""
SCALED = 5
"""Half octaves between the middles of numbers of one scale and those of another: a factor of about six."""
SHIFTED, TIMES_SHIFTED, BY_CHANCE = 0.25, 2.5, 2.5
"""Share of the cells that must have changed over to other values, how much more than from run to run before, and than
two samples of the same differ on average."""
REPEATED = 0.002
_YEAR = """
january february march april may june july august september october november december jan feb mar apr jun jul aug sep
sept oct nov dec monday tuesday wednesday thursday friday saturday sunday mon tue wed thu fri sat sun
spring summer autumn winter q1 q2 q3 q4
"""
CALENDAR = frozenset(_YEAR.split())
"""Values that move on with the year."""


@dataclass(frozen=True)
class Known:
    """A column in the earlier runs: each by itself, the last one first, and all together."""

    runs: Sequence[ColumnPrint]
    past: ColumnPrint

    @classmethod
    def of(cls, name: str, runs: Sequence[ColumnPrint]) -> Known:
        past = ColumnPrint(name)
        for one in runs:
            past.add(one)
        return cls(runs, past)


@dataclass(frozen=True)
class Told:
    """A difference in words, and what it has in common with the same in other columns."""

    text: str
    signature: str = ""


Look: TypeAlias = Callable[[ColumnPrint, Known], Told | None]
"""Compares a column with what is known of it; None where nothing is news."""


def beyond(count: int, of: int, before: int, of_before: int, highest: float) -> bool:
    """Whether a share is greater than in any run, and more so than two samples of the same may differ."""
    share = count / of
    pooled = (count + before) / (of + of_before)
    deviation = sqrt(pooled * (1 - pooled) * (1 / of + 1 / of_before))
    return share - highest > max(AT_LEAST, BEYOND_BY_CHANCE * deviation)


def is_news(cells: int, of: int) -> bool:
    """Whether what was never there before is there in more than a cell or two, or in a good part of few."""
    return cells >= FEW_CELLS or cells > RARELY * of


def quoted(value: str) -> str:
    """A value in one line, cut in the middle where it is long."""
    if len(value) > LONGEST_SHOWN:
        half = LONGEST_SHOWN // 2
        value = f"{value[:half]}…{value[-half:]}"
    return spell_text(value)


def shown(mark: str) -> str:
    return {"\t": "tab", "": "none"}.get(mark, f'"{mark}"')


def is_closed(now: ColumnPrint, known: Known) -> bool:
    """Whether the values seen are all there are, as far as can be known; of ever more numbers their range says more."""
    past = known.past
    assert past.values is not None
    if past.least is not None and len(past.values) > MOST_VALUES_OF_NUMBERS:
        return False
    if not has_settled(known) or all(value.casefold() in CALENDAR for value in past.values):
        return False
    once = sum(cells == 1 for cells in past.values.values())
    kinds = len(past.values)
    unseen = kinds * exp(-past.filled / max(kinds, 1))
    return unseen <= UNSEEN and once * now.filled <= LIKELY_NEW * past.filled


def has_settled(known: Known) -> bool:
    """Whether no run but the first brought a value of its own, or lacked one for good.

    From one run alone nothing can be known of values that hold digits: the next may count on.
    """
    runs = [one for one in reversed(known.runs) if one.values]
    if len(runs) < 2:
        values = runs[0].values if runs else {}
        return not any(any(map(str.isdigit, value)) for value in values or {})
    seen: set[str] = set(runs[0].values or {})
    for one in runs[1:]:
        own: set[str] = set(one.values or {})
        if own - seen:
            return False
        seen |= own
    return True


def are_words(form: str) -> bool:
    return "%" not in form and "9" not in form


def holds_lists(past: ColumnPrint) -> bool:
    return any(counts.total() >= MARKED * past.filled for counts in past.parts.values())


def cells_have(cells: int, now: ColumnPrint) -> str:
    """How many cells have what is told next; of a large extract, among how many that were looked at."""
    if now.passed_over:
        return f"{cells:,} of {now.cells:,} cells that were looked at have"
    return "1 cell has" if cells == 1 else f"{cells:,} cells have"
