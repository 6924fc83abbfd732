"""What the verbs share that choose rows: keep rows, drop rows, set aside rows."""

from __future__ import annotations

import numpy as np

from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.case_misses import TextTest, case_misses_told, count_case_misses, text_tests
from mangler.steps.shared.conditions import Condition, condition_of
from mangler.steps.shared.failing import policy_of, remarks_on_failures
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Schema
from mangler.table.tally import Tally

FAILURES = (
    "What happens to a row whose condition cannot be known, by a division by zero for example: stop (the default)"
    " delivers nothing and reports all such rows, aside sets the row aside, null takes the condition as null."
)


@dataclass(frozen=True)
class RowChoice(RowStep):
    """Passes on the rows that meet a condition, or with `drops` all other rows."""

    schema: Schema
    condition: Condition
    drops: bool
    tests: tuple[TextTest, ...] = ()
    """Tests with a text that may be there in another letter case."""

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch))
        batch, met = self.condition.test(batch, tally)
        stay = ~met if self.drops else met
        count_case_misses(self.tests, batch.columns, ~met, tally)
        out = batch if stay.all() else batch.filter(np.ascontiguousarray(stay))
        tally.rows_out = len(out)
        return out, tally

    def remarks(self, tally: Tally) -> list[str]:
        missed = case_misses_told(self.tests, tally)
        return [*remarks_on_choice(tally, self.drops), *missed, *remarks_on_failures(tally)]


def remarks_on_choice(tally: Tally, drops: bool) -> list[str]:
    rows = tally.counts["rows_met"] + tally.counts["rows_false"] + tally.counts["rows_null"]
    left = rows - tally.counts["rows_met"] if not drops else tally.counts["rows_met"]
    if rows and not left:
        return [f"changed nothing: the condition is {'never' if drops else 'always'} met"]
    messages = []
    if rows and left == rows:
        messages.append(f"all {rows:,} rows went")
    if tally.counts["rows_null"]:
        fate = "stayed" if drops else "went"
        what = "row" if tally.counts["rows_null"] == 1 else "rows"
        messages.append(
            f"{tally.counts['rows_null']:,} {what} {fate} because the condition is null there, and not false"
        )
    return messages


def bind_choice(statement: Statement, schema: Schema, usage: str, drops: bool) -> RowChoice:
    condition = condition_of(statement, schema, usage, policy_of(statement))
    assert condition is not None
    return RowChoice(schema, condition, drops, text_tests(statement.values["where"], schema))
