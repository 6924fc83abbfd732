"""What is not as it was: an extract's fingerprint compared with those of the last runs.

A difference is reported when it is news, and not what every week brings: a value is new when those known are all there
are, as far as the data can tell; a list is longer when the longest was there often before.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from enum import StrEnum
from math import exp, sqrt

from mangler.insight.columns.shape_kinds import MACHINE, ShapeKind
from mangler.insight.fingerprint.fingerprint import MOST_VALUES, ColumnPrint, Fingerprint
from mangler.language.mistake import enumerate_names
from mangler.language.spelling import spell_text


class Change(StrEnum):
    """Kinds of drift, the most harmful first."""

    DELIMITER = "another delimiter"
    COLUMN_GONE = "a column gone"
    COLUMN_RENAMED = "a column renamed"
    WRITTEN = "written otherwise"
    NEW_VALUE = "values never seen"
    MORE_PARTS = "more parts than ever"
    LENGTH = "another length"
    NULLS = "more nulls"
    RANGE = "numbers out of range"
    ENCODING = "another encoding"
    COLUMN_NEW = "a column more"
    MOVED = "columns in another order"


@dataclass(frozen=True)
class Drift:
    """One finding; `columns` are those it is about, by the names that the recipe knows."""

    change: Change
    message: str
    columns: tuple[str, ...] = ()

    @property
    def harm(self) -> int:
        return -list(Change).index(self.change)


LEAST_CELLS = 40
"""Cells of earlier runs from which a column is known well enough to be compared with."""
UNSEEN = 0.001
LIKELY_NEW = 0.02
"""How many values may be unseen yet, and the chance of a new one, from which one is no news."""
ALIKE_NAMES, ALIKE_VALUES = 0.72, 0.6
OFTEN = 5
"""Cells that must have had the most parts before, for more to be news."""
MARKED = 0.1
NULLS_BEYOND, NULLS_AT_LEAST = 4.5, 0.08
"""Standard deviations of a share of nulls, and how much greater it must be at least."""
RARELY = 0.02
BEYOND = 0.5
"""Shares of the known range that a number may lie beyond it."""
MOST_SHOWN, LONGEST_SHOWN = 3, 32
MOST_TOLD = 10
"""Columns gone, or new, that have a finding each."""
MOST_COMPARED = 10_000
"""Pairs of a column that is gone and a new one that are compared."""
FORMS: dict[str, str] = {
    ShapeKind.CODE: "digits that are no number and no date",
    ShapeKind.WORD: "words",
    ShapeKind.MARKS: "marks only",
}
"""How kinds of cells are reported that say little by themselves; others as they are."""


def drift_of(now: Fingerprint, before: Sequence[Fingerprint]) -> list[Drift]:
    """The findings, the most harmful first. Without earlier runs there are none."""
    if not before:
        return []
    last = before[0]
    found: list[Drift] = []
    if now.delimiter not in {one.delimiter for one in before}:
        found.append(
            Drift(
                Change.DELIMITER,
                f"the delimiter is {_shown(now.delimiter)}, and was {_shown(last.delimiter)}",
            )
        )
    if now.encoding not in {one.encoding for one in before}:
        found.append(Drift(Change.ENCODING, f"the encoding is {now.encoding}, and was {last.encoding}"))
    names, pairs = _columns(now, last, found)
    known: dict[str, list[ColumnPrint]] = {}
    for fingerprint in before:
        for one in fingerprint.columns:
            known.setdefault(one.name, []).append(one)
    for column in now.columns:
        name = pairs.get(column.name, column.name)
        if name in known and column.name in names:
            found += _of_column(column, known[name], name)
    return sorted(found, key=lambda drift: -drift.harm)


def _columns(now: Fingerprint, last: Fingerprint, found: list[Drift]) -> tuple[set[str], dict[str, str]]:
    """Columns to be compared with earlier ones, and those of them that had another name."""
    ours = {column.name: column for column in now.columns}
    theirs = {column.name: column for column in last.columns}
    gone = [column for name, column in theirs.items() if name not in ours]
    new = [column for name, column in ours.items() if name not in theirs]
    pairs: dict[str, str] = {}
    lost: list[str] = []
    for old in gone:
        # Each is compared with each: where they are many, the table is another one, and not its names.
        few = len(gone) * len(new) <= MOST_COMPARED
        like = max(new, key=lambda one: _likeness(old, one), default=None) if few else None
        if like is not None and _likeness(old, like) > 0:
            pairs[like.name] = old.name
            new.remove(like)
            message = f'"{old.name}" seems to be called "{like.name}" now'
            found.append(Drift(Change.COLUMN_RENAMED, message, (old.name,)))
        else:
            lost.append(old.name)
    found += _told_of(lost, Change.COLUMN_GONE, "gone") + _told_of(
        [one.name for one in new], Change.COLUMN_NEW, "new"
    )
    common = [name for name in ours if name in theirs]
    if common != [name for name in theirs if name in ours]:
        found.append(Drift(Change.MOVED, "the columns stand in another order"))
    return set(ours) - {one.name for one in new}, pairs


def _told_of(names: Sequence[str], change: Change, what: str) -> list[Drift]:
    """A finding for each column; one for all where they are many."""
    if len(names) <= MOST_TOLD:
        return [Drift(change, f'the column "{name}" is {what}', (name,)) for name in names]
    shown = enumerate_names([f'"{name}"' for name in names], MOST_TOLD)
    return [Drift(change, f"{len(names):,} columns are {what}: {shown}", tuple(names))]


def _likeness(old: ColumnPrint, new: ColumnPrint) -> float:
    """Above nought where a column may be another under a new name: by its name, or by its values."""
    names = SequenceMatcher(None, old.name.casefold(), new.name.casefold()).ratio()
    shared = 0.0
    if old.values and new.values:
        shared = sum(value in old.values for value in new.values) / len(new.values)
        if shared < ALIKE_VALUES and names < ALIKE_NAMES:
            return 0.0
    if old.written and new.written and not set(_usual(old.written)) & set(_usual(new.written)):
        return 0.0
    return names + shared if names >= ALIKE_NAMES or shared >= ALIKE_VALUES else 0.0


def _usual(written: Counter[str]) -> list[str]:
    total = written.total()
    return [form for form, cells in written.items() if cells >= RARELY * total]


def _of_column(now: ColumnPrint, known: Sequence[ColumnPrint], name: str) -> list[Drift]:
    """What is not as it was in one column."""
    past = ColumnPrint(name)
    for one in known:
        past.add(one)
    found: list[Drift] = []
    if _nulls_are_more(now, known, past):
        share, before = now.nulls / now.cells, past.nulls / past.cells
        message = f"{name}: {share:.0%} of the cells are null, and {before:.0%} were"
        found.append(Drift(Change.NULLS, message, (name,)))
    if past.filled < LEAST_CELLS or not now.filled:
        return found
    message = _new_values(now, past)
    if message:  # which says more than that they are written otherwise, or out of range
        found.append(Drift(Change.NEW_VALUE, f"{name}: {message}", (name,)))
    for change, look in LOOKS.items():
        if (not message or change is Change.MORE_PARTS) and (other := look(now, past)):
            found.append(Drift(change, f"{name}: {other}", (name,)))
    return found


def _nulls_are_more(now: ColumnPrint, known: Sequence[ColumnPrint], past: ColumnPrint) -> bool:
    """Whether the share is greater than in any run, and more so than two samples of the same may differ."""
    if not now.cells or past.cells < LEAST_CELLS:
        return False
    highest = max(one.nulls / one.cells for one in known if one.cells)
    share = now.nulls / now.cells
    pooled = (now.nulls + past.nulls) / (now.cells + past.cells)
    deviation = sqrt(pooled * (1 - pooled) * (1 / now.cells + 1 / past.cells))
    return share - highest > max(NULLS_AT_LEAST, NULLS_BEYOND * deviation)


def _written(now: ColumnPrint, past: ColumnPrint) -> str:
    """A column of numbers or dates that holds something else, or dates of a form never seen."""
    before = past.written.total()
    machine = [kind for kind in past.written if kind in MACHINE or "%" in kind]
    if sum(past.written[kind] for kind in machine) * 2 < before:
        return ""
    strange = {form: cells for form, cells in now.written.items() if not past.written[form]}
    cells = sum(strange.values())
    return _forms(strange) if cells >= 2 or cells > RARELY * now.filled else ""


def _forms(strange: dict[str, int]) -> str:
    shown = ", ".join(
        f"{FORMS.get(form, form)} in {cells:,}" for form, cells in list(strange.items())[:MOST_SHOWN]
    )
    return f"cells are written in a way never seen: {shown}" if shown else ""


def _new_values(now: ColumnPrint, past: ColumnPrint) -> str:
    """Values never seen in a column of few values.

    How likely a new one is by itself is reported by how many values were seen once (I. J. Good, "The population
    frequencies of species and the estimation of population parameters", 1953); and, where none was, by how likely one
    of values about as frequent as all others would have stayed unseen in so many cells.
    """
    if past.values is None or not _is_known(now, past):
        return ""
    if now.values is None:
        return f"there are more than {MOST_VALUES} different values, and {len(past.values)} were known"
    new = {value: cells for value, cells in now.values.items() if value not in past.values}
    if not new:
        return ""
    shown = ", ".join(f"{_quoted(value)} in {cells:,}" for value, cells in list(new.items())[:MOST_SHOWN])
    more = f" and {len(new) - MOST_SHOWN} more" if len(new) > MOST_SHOWN else ""
    return f"values never seen: {shown}{more}"


def _quoted(value: str) -> str:
    """A value in one line, cut in the middle where it is long."""
    if len(value) > LONGEST_SHOWN:
        half = LONGEST_SHOWN // 2
        value = f"{value[:half]}…{value[-half:]}"
    return spell_text(value)


def _is_known(now: ColumnPrint, past: ColumnPrint) -> bool:
    """Whether the values seen are all there are, as far as can be known; of ever more numbers their range says more."""
    assert past.values is not None
    if past.least is not None and len(past.values) > MOST_VALUES_OF_NUMBERS:
        return False
    once = sum(cells == 1 for cells in past.values.values())
    kinds = len(past.values)
    unseen = kinds * exp(-past.filled / max(kinds, 1))
    return unseen <= UNSEEN and once * now.filled <= LIKELY_NEW * past.filled


MOST_VALUES_OF_NUMBERS = 15
LEAST_LENGTH, LEAST_VALUES = 3, 8
"""Characters and different values from which one length of all is no chance."""


def _parts(now: ColumnPrint, past: ColumnPrint) -> str:
    for mark, counts in past.parts.items():
        most = max(counts, default=1)
        if counts.total() < MARKED * past.filled or counts[most] < OFTEN:
            continue
        here = now.parts.get(mark, Counter())
        if here and max(here) > most:
            more = sum(cells for number, cells in here.items() if number > most)
            cells = "1 cell has" if more == 1 else f"{more:,} cells have"
            return f"{cells} up to {max(here)} parts at {_shown(mark)}, and {most} were the most"
    return ""


def _length(now: ColumnPrint, past: ColumnPrint) -> str:
    """Cells of a column in which all had one length, as codes have: zeros in front may be gone, or digits."""
    if (
        past.shortest is None
        or past.shortest != past.longest
        or (now.shortest, now.longest) == (past.shortest,) * 2
    ):
        return ""
    if past.shortest < LEAST_LENGTH or (past.values is not None and len(past.values) < LEAST_VALUES):
        return ""
    reach = f"{now.shortest}" if now.shortest == now.longest else f"{now.shortest} to {now.longest}"
    return f"cells of {reach} characters, and all had {past.shortest}"


def _range(now: ColumnPrint, past: ColumnPrint) -> str:
    if past.least is None or past.most is None or now.least is None or now.most is None:
        return ""
    reach = BEYOND * (past.most - past.least) or abs(past.most) * BEYOND
    if now.least < past.least - reach or now.most > past.most + reach:
        before = f"{past.least:,.10g} to {past.most:,.10g}"
        return f"numbers from {now.least:,.10g} to {now.most:,.10g}, and they were from {before}"
    return ""


LOOKS: dict[Change, Callable[[ColumnPrint, ColumnPrint], str]] = {
    Change.WRITTEN: _written,
    Change.MORE_PARTS: _parts,
    Change.LENGTH: _length,
    Change.RANGE: _range,
}


def _shown(mark: str) -> str:
    return "tab" if mark == "\t" else f'"{mark}"'
