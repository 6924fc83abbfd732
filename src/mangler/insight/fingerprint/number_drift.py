"""Numbers of another size or out of range, and lists that are longer."""

from __future__ import annotations

from collections import Counter

from mangler.insight.fingerprint.fingerprint import ColumnPrint
from mangler.insight.fingerprint.known import (
    BEYOND,
    LEAST_CELLS,
    MARKED,
    OFTEN,
    SCALED,
    TIMES_BEYOND,
    Known,
    Told,
    cells_have,
    shown,
)

MOST_IN_COMMON = 0.1
"""Share of the numbers that may be of the same sizes before and after a change of scale."""


def another_scale(now: ColumnPrint, known: Known) -> Told | None:
    """Numbers whose middle is of another size than in any run: cents for units, grams for kilograms."""
    middles = [_middle(one) for one in known.runs]
    here = _middle(now)
    there = [middle for middle in middles if middle is not None]
    if here is None or not there or now.filled < LEAST_CELLS // 2:
        return None
    low, high = min(there), max(there)
    apart = max(low - here, here - high)
    if apart < SCALED + 2 * (high - low):
        return None
    if now.forms is None or max(_overlap(now.forms.sizes, one) for one in known.runs) > MOST_IN_COMMON:
        return None
    times = 2 ** (apart / 2)
    near = min((10, 60, 100, 1000, 1_000_000), key=lambda one: abs(times - one) / one)
    about = near if abs(times - near) < 0.5 * near else round(times)
    word = "larger" if here > high else "smaller"
    return Told(f"numbers are about {about:,} times {word} than they were", f"{word} {about}")


def _overlap(sizes: Counter[int], run: ColumnPrint) -> float:
    """The share of the numbers that are of the same sizes in both."""
    there = run.forms.sizes if run.forms is not None else Counter[int]()
    ours, theirs = max(sizes.total(), 1), max(there.total(), 1)
    return sum(min(sizes[size] / ours, there[size] / theirs) for size in sizes)


def _middle(column: ColumnPrint) -> int | None:
    """The half octave of the median; None where few cells are numbers."""
    if column.forms is None:
        return None
    sizes = column.forms.sizes
    total = sizes.total()
    if total < LEAST_CELLS // 2 or total * 2 < column.forms.cells.total():
        return None
    upto = 0
    for size in sorted(sizes):
        upto += sizes[size]
        if upto * 2 >= total:
            return size or None
    return None


def more_parts(now: ColumnPrint, known: Known) -> Told | None:
    past = known.past
    for mark, counts in past.parts.items():
        most = max(counts, default=1)
        if counts.total() < MARKED * past.filled or counts[most] < OFTEN:
            continue
        here = now.parts.get(mark, Counter())
        if here and max(here) > most:
            more = sum(cells for number, cells in here.items() if number > most)
            return Told(
                f"{cells_have(more, now)} up to {max(here)} parts at {shown(mark)}, and {most} were the most"
            )
    return None


FEWER, MORE = 0.4, 2.5
"""Times the total per row of any earlier run that are news."""


def another_total(now: ColumnPrint, known: Known) -> Told | None:
    """A sum that is far from usual for so many rows, where it hardly changed from run to run."""
    before = [
        one.total / one.cells for one in known.runs if one.total is not None and one.cells >= LEAST_CELLS
    ]
    if len(before) < 2 or now.total is None or now.cells < LEAST_CELLS // 2:
        return None
    least, most = min(before), max(before)
    if not 0 < least <= most <= STEADY * least:
        return None
    here = now.total / now.cells
    if FEWER * least <= here <= MORE * most:
        return None
    total = f"{now.total:,.10g}, " if not now.passed_over else ""
    return Told(f"they add up to {total}{here:,.4g} per row, and were {least:,.4g} to {most:,.4g} per row")


STEADY = 1.6
"""Times the least of the earlier totals that the greatest may be, for another one to be news."""


def out_of_range(now: ColumnPrint, known: Known) -> Told | None:
    past = known.past
    if past.least is None or past.most is None or now.least is None or now.most is None:
        return None
    reach = BEYOND * (past.most - past.least) or abs(past.most) * BEYOND
    high = past.most + reach
    low = past.least - reach
    if past.least >= 0:
        high, low = max(high, TIMES_BEYOND * past.most), 0.0
    if now.least >= low and now.most <= high:
        return None
    before = f"{past.least:,.10g} to {past.most:,.10g}"
    return Told(f"numbers from {now.least:,.10g} to {now.most:,.10g}, and they were from {before}")
