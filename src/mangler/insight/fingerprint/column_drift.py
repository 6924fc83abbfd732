"""What is not as it was in one column: the likeliest cause first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from mangler.insight.fingerprint.change import Change, Drift
from mangler.insight.fingerprint.fingerprint import ColumnPrint
from mangler.insight.fingerprint.form_drift import another_length, white_space, written_otherwise
from mangler.insight.fingerprint.known import LEAST_CELLS, Known, Look, beyond
from mangler.insight.fingerprint.number_drift import another_scale, another_total, more_parts, out_of_range
from mangler.insight.fingerprint.value_drift import letter_case, new_values, other_shares, repeating_key

LOOKS: Mapping[Change, Look] = {
    Change.WHITE_SPACE: white_space,
    Change.LETTER_CASE: letter_case,
    Change.WRITTEN: written_otherwise,
    Change.LENGTH: another_length,
    Change.MORE_PARTS: more_parts,
    Change.NEW_VALUE: new_values,
    Change.SCALE: another_scale,
    Change.KEY: repeating_key,
    Change.RANGE: out_of_range,
    Change.TOTAL: another_total,
    Change.SHARES: other_shares,
}
"""In the order in which one may be the cause of those after it."""


def another_type(now: ColumnPrint, runs: Sequence[ColumnPrint], name: str) -> list[Drift]:
    """A column that has a type in its file which it had in none of the runs; one without a value has none."""
    if not now.filled or now.type in {one.type for one in runs}:
        return []
    last = next((one for one in runs if one.filled), None)
    if last is None:
        return []
    message = f"{name}: its type is {now.type}, and was {last.type}"
    return [Drift(Change.TYPE, message, (name,), signature=f"{last.type} {now.type}")]


def drift_of_column(now: ColumnPrint, runs: Sequence[ColumnPrint], name: str) -> list[Drift]:
    """The likeliest cause first, with what follows from it; and what cannot come from it."""
    known = Known.of(name, runs)
    nulls = _nulls(now, known)
    found = [Drift(Change.NULLS, f"{name}: {nulls}", (name,), signature="nulls")] if nulls else []
    if known.past.filled < LEAST_CELLS or not now.filled:
        return found
    told: list[Drift] = []
    for change, look in LOOKS.items():
        message = look(now, known)
        if message:
            told.append(Drift(change, f"{name}: {message.text}", (name,), signature=message.signature))
    if told:
        first, *others = told
        consequences = tuple(one.message.removeprefix(f"{name}: ") for one in others)
        found.insert(0, Drift(first.change, first.message, (name,), consequences, first.signature))
    return found


def _nulls(now: ColumnPrint, known: Known) -> str:
    past = known.past
    if not now.cells or past.cells < LEAST_CELLS:
        return ""
    highest = max(one.nulls / one.cells for one in known.runs if one.cells)
    if not beyond(now.nulls, now.cells, past.nulls, past.cells, highest):
        return ""
    return f"{now.nulls / now.cells:.0%} of the cells are null, and {past.nulls / past.cells:.0%} were"
