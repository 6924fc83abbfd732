"""What happens to rows whose value cannot be made: the clause `failures`."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from mangler.expressions.reasons import Positions, Reasons, reasons_of
from mangler.expressions.value import Failure
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.text_view import Flags
from mangler.language.scope import Literal
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.literals import scalar_of
from mangler.table.batch import Batch
from mangler.table.row_notes import Codes, RowNotes
from mangler.table.row_notes import merged as merge_notes
from mangler.table.tally import MOST_EXAMPLES, Tally

FAILURES = (
    "What happens to a row whose value cannot be made: stop (the default) reads on to the end, delivers nothing and"
    " reports all such rows; aside sets the row aside"
)
"""The sentence that the verbs' own go on from."""


@dataclass(frozen=True)
class Policy:
    """`stop`, `aside`, `null`, `keep`, or `value` with the literal."""

    name: str
    literal: Literal | None = None

    @property
    def takes_rows(self) -> bool:
        """Whether a failing row leaves the table."""
        return self.name in ("stop", "aside")


STOP = Policy("stop")


def policy_of(statement: Statement, clause: str = "failures", default: str = "stop") -> Policy:
    """What a statement says in such a clause; the default where it says nothing."""
    if not statement.has(clause):
        return Policy(default)
    choice = statement.values[clause]
    if isinstance(choice, str):
        return Policy(choice)
    return Policy("value", statement.values["value"])


def merged(failures: Sequence[Failure], count: int) -> tuple[Flags, Codes]:
    """Which rows fail, and for each the number of the first failure that says why, -1 where none does."""
    flags = np.zeros(count, np.bool_)
    numbers = np.full(count, -1, np.int64)
    for number, failure in enumerate(failures):
        numbers[failure.flags & ~flags] = number
        flags |= failure.flags
    return flags, numbers


def take_out(
    batch: Batch, failures: Sequence[Failure], policy: Policy, tally: Tally
) -> tuple[Batch, Flags | None]:
    """The batch without rows that fail, and which rows stay; None when all do.

    With a row go all that came from the same extract row: it is delivered whole or not at all.
    """
    if not failures or not policy.takes_rows:
        return batch, None
    flags, numbers = merged(failures, len(batch))

    def message(positions: Positions) -> Reasons:
        reasons: list[str] = []
        codes = np.zeros(len(positions), np.int64)
        for number in np.unique(numbers[positions]).tolist():
            own = numbers[positions] == number
            more, which = reasons_of(failures[number].reason, positions[own])
            codes[own] = which + len(reasons)
            reasons += more
        return reasons, codes

    return withdraw(batch, notes_of(batch, flags, message, policy.name), policy.name, tally)


def notes_of(batch: Batch, flags: Flags, message: Callable[[Positions], Reasons], policy: str) -> RowNotes:
    """The extract rows of flagged rows, with their reasons; of several rows of one the first says why.

    Of rows that stop the run only the first few have a reason: no more are shown.
    """
    positions = np.flatnonzero(flags)
    rows, first = np.unique(batch.rows[positions], return_index=True)
    positions = positions[first]
    if policy != "stop":
        reasons, codes = message(positions)
        return RowNotes(rows, codes, tuple(reasons))
    reasons, few = message(positions[:MOST_EXAMPLES])
    codes = np.full(len(rows), len(reasons), np.int64)
    codes[: len(few)] = few
    return RowNotes(rows, codes, (*reasons, ""))


def withdraw(batch: Batch, notes: RowNotes, policy: str, tally: Tally) -> tuple[Batch, Flags | None]:
    """Takes extract rows out of a batch, each for its reason, and accounts for them."""
    if not len(notes):
        return batch, None
    stay = ~np.isin(batch.rows, notes.rows)
    tally.withdrawn += int(np.count_nonzero(~stay))
    if policy == "aside":
        tally.aside = merge_notes([tally.aside, notes])
        tally.set_aside += len(notes)
    else:
        tally.failed += len(notes)
        for row, reason in notes.first(MOST_EXAMPLES - len(tally.failures)):
            tally.failures.append((row, batch.origin.line_of(row), reason))
    return batch.filter(stay), stay


def settle_failures(
    array: ColumnArray, before: ColumnArray, failures: Sequence[Failure], policy: Policy, tally: Tally
) -> ColumnArray:
    """Cells that failed, as the policy says: null as they are, the value from before, or one that is given."""
    if not failures or policy.takes_rows:
        return array
    flags, _ = merged(failures, len(array))
    count = int(np.count_nonzero(flags))
    if not count:
        return array
    if policy.name == "null":
        tally.counts["failed_to_null"] += count
        return array
    import pyarrow.compute as pc

    if policy.name == "keep":
        tally.counts["failed_kept"] += count
        return pc.if_else(from_numpy(flags), before, array)
    assert policy.literal is not None
    tally.counts["failed_to_value"] += count
    return pc.if_else(from_numpy(flags), scalar_of(policy.literal, array.type), array)


def remarks_on_failures(tally: Tally) -> list[str]:
    messages = []
    for count, what in (
        (tally.counts["failed_to_null"], "became null because the value could not be made"),
        (tally.counts["failed_to_value"], "got the value of failures because their own could not be made"),
        (tally.counts["failed_kept"], "kept the old value because the new one could not be made"),
    ):
        if count:
            messages.append(f"{count:,} {'cell' if count == 1 else 'cells'} {what}")
    if tally.set_aside:
        messages.append(f"{tally.set_aside:,} extract {'row' if tally.set_aside == 1 else 'rows'} set aside")
    return messages
