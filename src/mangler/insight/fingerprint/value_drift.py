"""Values that are new, in other shares or letter cases, or repeat."""

from __future__ import annotations

from math import pi, sqrt

from mangler.insight.fingerprint.fingerprint import MOST_VALUES, ColumnPrint
from mangler.insight.fingerprint.known import (
    AT_LEAST,
    BY_CHANCE,
    FEW_CELLS,
    LEAST_CELLS,
    MOST_SHOWN,
    REPEATED,
    SHIFTED,
    TIMES_BEYOND,
    TIMES_SHIFTED,
    Known,
    Told,
    is_closed,
    quoted,
)


def letter_case(now: ColumnPrint, known: Known) -> Told | None:
    """Known values in another letter case, or a case that no cell of many values had."""
    past = known.past
    if now.values is not None and past.values is not None:
        folded = {value.casefold(): value for value in past.values}
        new = {value: cells for value, cells in now.values.items() if value not in past.values}
        other = {value: cells for value, cells in new.items() if value.casefold() in folded}
        if not other or len(other) * 2 < len(new):
            return None
        shown = ", ".join(
            f"{quoted(value)} in {cells:,} for {quoted(folded[value.casefold()])}"
            for value, cells in list(other.items())[:MOST_SHOWN]
        )
        more = f" and {len(other) - MOST_SHOWN} more" if len(other) > MOST_SHOWN else ""
        return Told(f"values in another letter case: {shown}{more}", "case")
    if now.forms is None or past.forms is None or past.forms.cases.total() < LEAST_CELLS:
        return None
    strange = {case: cells for case, cells in now.forms.cases.items() if not past.forms.cases[case]}
    cells = sum(strange.values())
    if not strange or cells < AT_LEAST * now.forms.cases.total() or len(past.forms.cases) > 2:
        return None
    names = " and ".join(strange)
    return Told(f"{cells:,} cells are in {names} case, and none was", "case")


def new_values(now: ColumnPrint, known: Known) -> Told | None:
    """Values never seen in a column of few values.

    How likely a new one is by itself is reported by how many values were seen once (I. J. Good, "The population
    frequencies of species and the estimation of population parameters", 1953); and, where none was, by how likely one
    of values about as frequent as all others would have stayed unseen in so many cells. Where the earlier runs brought
    new values themselves, the column moves on by its nature: days, batches, weeks, running numbers.
    """
    past = known.past
    if past.values is None or not is_closed(now, known):
        return None
    if now.values is None:
        return Told(f"there are more than {MOST_VALUES} different values, and {len(past.values)} were known")
    new = {value: cells for value, cells in now.values.items() if value not in past.values}
    if not new or _counts_on(now.values, past.values, new):
        return None
    shown = ", ".join(f"{quoted(value)} in {cells:,}" for value, cells in list(new.items())[:MOST_SHOWN])
    more = f" and {len(new) - MOST_SHOWN} more" if len(new) > MOST_SHOWN else ""
    return Told(f"values never seen: {shown}{more}")


def _counts_on(now: dict[str, int], past: dict[str, int], new: dict[str, int]) -> bool:
    """Whether codes with a number in them went on: the new ones are like the known ones except for their digits, and
    have taken their place."""
    known = {_without_digits(value) for value in past}
    if not all("#" in _without_digits(value) and _without_digits(value) in known for value in new):
        return False
    return sum(new.values()) * 2 > sum(now.values())


def _without_digits(value: str) -> str:
    return "".join("#" if character.isdigit() else character for character in value)


def other_shares(now: ColumnPrint, known: Known) -> Told | None:
    """A closed set whose cells have changed over to other values, more than they ever did from run to run."""
    past = known.past
    if past.values is None or now.values is None or not is_closed(now, known) or len(past.values) < 2:
        return None
    if now.filled < LEAST_CELLS // 2 or not now.values.keys() <= past.values.keys():
        return None
    apart = _apart(now.values, past.values)
    usual = max(
        (
            _apart(one.values, other.values)
            for one, other in zip(known.runs, known.runs[1:], strict=False)
            if one.values and other.values
        ),
        default=0.0,
    )
    chance = BY_CHANCE * sqrt(len(past.values) / (2 * pi) * (1 / now.filled + 1 / past.filled))
    if apart < max(SHIFTED, TIMES_SHIFTED * usual, chance):
        return None
    share = {value: cells / now.filled for value, cells in now.values.items()}
    before = {value: cells / past.filled for value, cells in past.values.items()}
    most = max(past.values, key=lambda value: abs(share.get(value, 0.0) - before[value]))
    return Told(
        f"{quoted(most)} is in {share.get(most, 0.0):.0%} of the cells, and was in {before[most]:.0%}",
        "shares",
    )


def _apart(one: dict[str, int], other: dict[str, int]) -> float:
    """The share of the cells that would have to change their value for two columns to be alike."""
    ours, theirs = sum(one.values()), sum(other.values())
    return 0.5 * sum(abs(one.get(v, 0) / ours - other.get(v, 0) / theirs) for v in one.keys() | other.keys())


def repeating_key(now: ColumnPrint, known: Known) -> Told | None:
    """Values that were unlike in every run, and repeat now. Numbers with places are unlike by chance only."""
    if now.repeats is None or now.repeats < max(FEW_CELLS, REPEATED * now.filled):
        return None
    if now.repeats < FEW_CELLS + TIMES_BEYOND * _by_chance(now, known.past):
        return None
    for one in known.runs:
        if (
            one.repeats != 0
            or one.filled < LEAST_CELLS // 2
            or (one.values is not None and len(one.values) < one.filled)
        ):
            return None
        if one.forms is None or any("." in form and "%" not in form for form in one.forms.cells):
            return None
        if any("%" in form for form in one.forms.cells):
            return None
    return Told(f"{now.repeats:,} cells repeat an earlier value, and no value was ever there twice")


def _by_chance(now: ColumnPrint, past: ColumnPrint) -> float:
    """How many values would repeat if their digits were drawn by lot: half the pairs by the numbers there are."""
    if past.forms is None or not past.forms.examples:
        return float(now.filled)
    usual = max(past.forms.cells, key=lambda form: past.forms.cells[form] if past.forms is not None else 0)
    digits = sum(map(str.isdigit, past.forms.examples.get(usual, "")))
    return float(now.filled**2 / 2 / 10**digits)
