"""`set aside rows`: rows that a person should look at."""

from __future__ import annotations

from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.conditions import Condition, condition_of
from mangler.steps.shared.counters import CONDITION, FAILED
from mangler.steps.shared.failing import policy_of, remarks_on_failures, withdraw
from mangler.steps.shared.row_choice import FAILURES
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.row_notes import RowNotes
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="set aside rows",
    usage="set aside rows where CONDITION because TEXT [failures (stop|aside|null)]",
    meaning="Sets the rows aside that meet a condition: each extract row goes to the aside file whole, as it was read,"
    " with the reason. Where an earlier step made several rows of it, they are all withdrawn.",
    clauses={
        "because": "The reason, as it is in the aside file.",
        "failures": FAILURES,
    },
    examples=(
        Example(
            'set aside rows where not (peak_c is integer) because "no temperature"',
            "kiln | peak_c\n007 | 1222\n012 | tbc",
            'kiln | peak_c\n007 | 1222\naside "no temperature"',
        ),
    ),
    needs_extract_rows=True,
    counters=(*CONDITION, *FAILED),
)


@dataclass(frozen=True)
class SetAside(RowStep):
    schema: Schema
    condition: Condition
    reason: str

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch))
        batch, met = self.condition.test(batch, tally)
        notes = RowNotes.for_one_reason(batch.rows[met], self.reason)
        out, _ = withdraw(batch, notes, "aside", tally)
        tally.rows_out = len(out)
        return out, tally

    def remarks(self, tally: Tally) -> list[str]:
        message = remarks_on_failures(tally)
        if not tally.counts["rows_met"] and tally.rows_in:
            message.insert(0, "changed nothing: the condition is never met")
        return message


def bind(statement: Statement, schema: Schema) -> SetAside:
    condition = condition_of(statement, schema, DECLARATION.usage, policy_of(statement))
    reason = statement.text("because")
    assert condition is not None and reason is not None
    return SetAside(schema, condition, reason.value)
