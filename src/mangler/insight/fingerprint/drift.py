"""What is not as it was: an extract's fingerprint compared with those of the last runs.

A difference is reported when it is news, and not what every week brings: a value is new when those known are all there
are, as far as the data can tell; a list is longer when the longest was there often before. One cause is one finding.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from difflib import SequenceMatcher

from mangler.insight.fingerprint.change import Change, Drift
from mangler.insight.fingerprint.column_drift import another_type, drift_of_column
from mangler.insight.fingerprint.fingerprint import ColumnPrint, Fingerprint
from mangler.insight.fingerprint.known import LEAST_CELLS, RARELY, shown
from mangler.language.mistake import enumerate_names

ALIKE_NAMES, ALIKE_VALUES = 0.72, 0.6
MOST_TOLD = 10
"""Columns gone, or new, that have a finding each."""
MOST_COMPARED = 10_000
"""Pairs of a column that is gone and a new one that are compared."""
FEWER, MORE = 0.4, 2.5
"""Times the rows of any earlier run that are news."""
EXCEPTIONS = 0.02
TOGETHER = (Change.TYPE, Change.WHITE_SPACE, Change.LETTER_CASE, Change.WRITTEN, Change.SCALE, Change.NULLS)
"""Changes that one cause makes in several columns."""


def drift_of(now: Fingerprint, before: Sequence[Fingerprint]) -> list[Drift]:
    """The findings, the most harmful first. Without earlier runs there are none."""
    if not before:
        return []
    found = _of_file(now, before)
    names, pairs = _columns(now, before[0], found)
    known: dict[str, list[ColumnPrint]] = {}
    for fingerprint in before:
        for one in fingerprint.columns:
            known.setdefault(one.name, []).append(one)
    of_columns: list[Drift] = []
    for column in now.columns:
        name = pairs.get(column.name, column.name)
        if name in known and column.name in names:
            of_columns += another_type(column, known[name], name)
            alike = [one for one in known[name] if one.type == column.type]
            of_columns += drift_of_column(column, alike, name) if alike else []
    of_columns += _not_following(now, before, of_columns)
    found += _one_for_each_cause(of_columns, before)
    return sorted(found, key=lambda drift: -drift.harm)


def _of_file(now: Fingerprint, before: Sequence[Fingerprint]) -> list[Drift]:
    """What the file is like as a whole."""
    last, found = before[0], []
    if now.format not in {one.format for one in before}:
        found.append(Drift(Change.FORMAT, f"the format is {now.format}, and was {last.format}"))
    alike = [one for one in before if one.format == now.format]
    if not alike:
        return found + _of_rows(now, before)
    before, last = alike, alike[0]
    if now.delimiter not in {one.delimiter for one in before}:
        message = f"the delimiter is {shown(now.delimiter)}, and was {shown(last.delimiter)}"
        found.append(Drift(Change.DELIMITER, message))
    if now.encoding not in {one.encoding for one in before}:
        found.append(Drift(Change.ENCODING, f"the encoding is {now.encoding}, and was {last.encoding}"))
    quoting = {one.quoting for one in before}
    if now.quoting and "" not in quoting and now.quoting not in quoting:
        found.append(
            Drift(Change.QUOTING, f"quotes are {_round(now.quoting)}, and were {_round(last.quoting)}")
        )
    return found + _of_rows(now, before)


def _of_rows(now: Fingerprint, before: Sequence[Fingerprint]) -> list[Drift]:
    """Whether there are far fewer rows than ever, or far more."""
    found = []
    rows = [one.rows for one in before]
    if len(rows) > 1 and min(rows) >= LEAST_CELLS and not FEWER * min(rows) <= now.rows <= MORE * max(rows):
        usual = f"{min(rows):,} to {max(rows):,}" if min(rows) < max(rows) else f"{min(rows):,}"
        found.append(Drift(Change.ROWS, f"it has {now.rows:,} rows, and earlier ones had {usual}"))
    return found


def _round(quoting: str) -> str:
    return "round every field" if quoting == "every field" else quoting


def _not_following(now: Fingerprint, before: Sequence[Fingerprint], found: Sequence[Drift]) -> list[Drift]:
    """Columns that followed from another in every run, and do not now."""
    held = set.intersection(
        *({(a, b) for a, b, exceptions in one.follows if not exceptions} for one in before)
    )
    exceptions = {(of, other): count for of, other, count in now.follows}
    rows = {column.name: column for column in now.columns}
    otherwise = {name for drift in found if drift.change is not Change.SHARES for name in drift.columns}
    broken = []
    for of, other in sorted(held):
        if of not in rows or other not in rows or {of, other} & otherwise:
            continue
        count = exceptions.get((of, other))
        if count is None and not any(of in pair for pair in exceptions):
            continue  # too few rows to tell, or another column now
        if count is None or count > max(2, EXCEPTIONS * min(now.rows, 2000)):
            broken.append((of, other, count))
    if not broken:
        return []
    of, other, count = min(broken, key=lambda one: (sum(one[1] in pair for pair in held), one[1], one[0]))
    rows_told = "many rows have" if count is None else f"{count:,} rows have"
    message = f"{other}: it always followed from {of}, and {rows_told} another value"
    columns = dict.fromkeys([other, of, *(name for one in broken for name in one[:2])])
    return [Drift(Change.FOLLOWS, message, tuple(columns), signature="follows")]


def _one_for_each_cause(found: Sequence[Drift], before: Sequence[Fingerprint]) -> list[Drift]:
    """The same change of several columns as one finding, and what follows from another column under it."""
    together: dict[tuple[Change, str], list[Drift]] = {}
    for drift in found:
        own = drift.signature if drift.change in TOGETHER else f"{drift.columns} {drift.message}"
        together.setdefault((drift.change, own), []).append(drift)
    out = [_joined(members) for members in together.values()]
    held = {(a, b) for one in before for a, b, exceptions in one.follows if not exceptions}
    paired = {name for pair in held for name in pair}
    related = [drift for drift in out if paired & set(drift.columns)]  # few: pairs are of a dozen columns
    for later in [drift for drift in related if drift.change is Change.SHARES]:
        causes = (one for one in related if one is not later and _may_cause(one, later, related, held))
        cause = next(causes, None)
        if cause is not None:
            out.remove(later)
            related.remove(later)
            told = replace(cause, consequences=(*cause.consequences, later.message))
            out[out.index(cause)] = related[related.index(cause)] = told
    return out


def _may_cause(one: Drift, later: Drift, related: Sequence[Drift], held: set[tuple[str, str]]) -> bool:
    """Whether other shares of a column come from a change of one that it follows from, or that follows from it."""
    if one.change is Change.SHARES and related.index(one) > related.index(later):
        return False
    return any((a, b) in held or (b, a) in held for a in one.columns for b in later.columns)


def _joined(members: Sequence[Drift]) -> Drift:
    first = members[0]
    if len(members) == 1:
        return first
    names = [name for one in members for name in one.columns]
    others = tuple(one.message for one in members[1:])
    message = f"{first.message}; alike in {len(members) - 1} more columns"
    if len(members) == 2:
        message = f"{first.message}; alike in {members[1].columns[0]}"
    return replace(first, message=message, columns=tuple(names), consequences=(*first.consequences, *others))


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
        found.append(Drift(Change.MOVED, "the columns are in another order"))
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
