"""`repeat rows`: each row as often as a column says."""

from __future__ import annotations

import numpy as np

from mangler.expressions.reasons import ByCell
from mangler.expressions.value import failing
from mangler.kernels.text.growth import refuse_repeats
from mangler.kernels.text.repeat import repeated_rows
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Name
from mangler.language.mistake import wrong_recipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.failing import FAILURES, Policy, policy_of, remarks_on_failures, take_out
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Schema, ValueType
from mangler.table.select import named_columns, quote_name
from mangler.table.stored_types import describe_type
from mangler.table.tally import Tally

MOST_TIMES = 1_000_000

DECLARATION = Declaration(
    name="repeat rows",
    usage="repeat rows by COLUMN [failures (stop|aside)]",
    meaning="Makes as many rows of each as a column of whole numbers says, all alike. 0 drops the row, and the summary"
    " counts such rows. Null, a number below 0 and one above a million fail.",
    clauses={"failures": f"{FAILURES}."},
    examples=(
        Example(
            "repeat rows by made",
            "piece | made integer\nbowl | 2\nvase | 0\nmug | 1",
            "piece | made integer\nbowl | 2\nbowl | 2\nmug | 1",
        ),
    ),
    counters=("dropped_by_0",),
)


@dataclass(frozen=True)
class RepeatRows(RowStep):
    schema: Schema
    index: int
    policy: Policy
    ways_out = "failures aside, or fill the column before"

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch))
        column = batch.columns[self.index]
        times = np.asarray(column.fill_null(-1)).astype(np.int64)
        absent = np.asarray(column.is_null())
        wrong = ((times < 0) | (times > MOST_TIMES)) & ~absent
        name = self.schema.names[self.index]
        failures = (
            *failing(absent, f"{name} is null, and how often the row is wanted is not known"),
            *failing(wrong, ByCell(column, lambda text: f"{name} is {text}, and 0 to {MOST_TIMES:,} can be")),
        )
        batch, stay = take_out(batch, failures, self.policy, tally)
        if stay is not None:
            times = times[np.asarray(stay)]
        refuse_repeats(batch.columns, times)
        sources = np.repeat(np.arange(len(batch)), times)
        tally.counts["dropped_by_0"] += int(np.count_nonzero(times == 0))
        tally.rows_added += int(np.maximum(times - 1, 0).sum())
        tally.rows_out = len(sources)
        columns = repeated_rows(batch.columns, sources)
        return Batch(columns, batch.rows[sources], batch.origin), tally

    def facts(self, tally: Tally) -> list[str]:
        count = tally.counts["dropped_by_0"]
        return [f"{count:,} {'row' if count == 1 else 'rows'} dropped by a 0"] if count else []

    def remarks(self, tally: Tally) -> list[str]:
        return remarks_on_failures(tally)


def bind(statement: Statement, schema: Schema) -> RepeatRows:
    name = statement.get("by", Name)
    assert name is not None
    (index,) = named_columns([name], schema)
    column = schema.columns[index]
    if column.type is not ValueType.INTEGER:
        spelled = quote_name(column.name)
        raise wrong_recipe(
            "wrong-type",
            f'repeat rows goes by whole numbers, and "{column.name}" is {describe_type(column)}',
            f"Write convert {spelled} to integer first.",
            name.span,
        )
    return RepeatRows(schema, index, policy_of(statement))
