"""What the statements share that say what rows must be like: `failures stop|aside|warn` and `because`."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeAlias

import numpy as np

from mangler.expressions.reasons import Reason, reason_of, reasons_of
from mangler.kernels.text.text_view import Flags
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.failing import notes_of, remarks_on_failures, withdraw
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Schema
from mangler.table.tally import MOST_EXAMPLES, Tally

FAILURES = (
    "What happens to a row that is not so: stop (the default) reads on to the end, delivers nothing and reports all"
    " such rows; aside sets the row aside; warn lets it pass, and the summary warns."
)
BECAUSE = (
    "The reason that is reported, and that is in the aside file; without it what is required is reported."
)
WAYS_OUT = "failures aside or failures warn"


@dataclass(frozen=True)
class Requirement:
    """`policy` is stop, aside or warn; `because` the reason, empty where none is given."""

    policy: str
    because: str = ""

    def hold(self, batch: Batch, unmet: Flags, why: Reason, tally: Tally) -> Batch:
        """The rows that go on. `why` says of a row, by its place in the batch, what is not as required."""
        at = np.flatnonzero(unmet)
        if not len(at):
            return batch
        if self.policy == "warn":
            tally.counts["unmet"] += len(at)
            for index in at[: MOST_EXAMPLES - len(tally.failures)].tolist():
                row = int(batch.rows[index])
                reason = self.because or reason_of(why, index)
                tally.failures.append((row, batch.origin.line_of(row), reason))
            return batch
        notes = notes_of(batch, unmet, lambda places: reasons_of(self.because or why, places), self.policy)
        out, _ = withdraw(batch, notes, self.policy, tally)
        return out

    def remarks(self, tally: Tally) -> list[str]:
        return remarks_on_failures(tally)

    def warnings(self, tally: Tally) -> list[str]:
        """What the summary warns of: rows that passed and are not as required."""
        if not tally.counts["unmet"]:
            return []
        rows = "1 row is" if tally.counts["unmet"] == 1 else f"{tally.counts['unmet']:,} rows are"
        examples = "; ".join(f"row {row:,}: {why}" for row, _, why in tally.failures)
        return [f"{rows} not as required: {examples}"]


Unmet: TypeAlias = Callable[[Batch, Tally], tuple[Flags, Callable[[int], str]]]
"""Which rows of a batch are not as required, and why one of them is not, by its place in the batch."""


@dataclass(frozen=True)
class RequiringStep(RowStep):
    """Rows are looked at one by one, whatever came before them."""

    schema: Schema
    requirement: Requirement
    unmet: Unmet
    ways_out = WAYS_OUT

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch))
        flags, why = self.unmet(batch, tally)
        out = self.requirement.hold(batch, flags, why, tally)
        tally.rows_out = len(out)
        return out, tally

    def remarks(self, tally: Tally) -> list[str]:
        return self.requirement.remarks(tally)

    def warnings(self, tally: Tally) -> list[str]:
        return self.requirement.warnings(tally)


def requirement_of(statement: Statement) -> Requirement:
    because = statement.text("because")
    return Requirement(statement.choice("failures") or "stop", because.value if because else "")
