"""`require that`: a condition that every row must meet."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from mangler.expressions.bind import bind_condition
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import Flags
from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.require.requirement import BECAUSE, FAILURES, RequiringStep, requirement_of
from mangler.steps.shared.conditions import evaluate, surroundings
from mangler.steps.shared.counters import CONDITION, UNMET
from mangler.steps.shared.failing import merged
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="require that",
    usage="require that CONDITION [failures (stop|aside|warn)] [because TEXT]",
    meaning="Every row must meet the condition. A condition that is null is not met; neither is one that cannot be"
    " known of a row, by a division by zero for example.",
    clauses={"failures": FAILURES, "because": BECAUSE},
    examples=(
        Example(
            'require that integer(peak_c) < 1400 failures aside because "hotter than any of our kilns"',
            "kiln | peak_c\n007 | 1222\n012 | 12220",
            'kiln | peak_c\n007 | 1222\naside "hotter than any of our kilns"',
        ),
    ),
    counters=(*CONDITION, *UNMET),
)


def bind(statement: Statement, schema: Schema) -> RequiringStep:
    bound = bind_condition(statement.values["condition"], surroundings(statement, schema, DECLARATION.usage))
    spelled = " ".join(statement.span_of("condition").text.split())
    names = tuple(schema.names)

    def unmet(batch: Batch, tally: Tally) -> tuple[Flags, Callable[[int], str]]:
        value = evaluate(bound, batch, names)
        array = value.settled(len(batch))
        met = flags_of(array)
        count = int(np.count_nonzero(met))
        tally.counts["rows_met"], tally.counts["rows_null"] = count, array.null_count
        tally.counts["rows_false"] = len(batch) - count - array.null_count
        failed, reasons = merged(value.failures, len(batch))

        def why(row: int) -> str:
            if failed[row]:
                return value.failures[int(reasons[row])].why(row)
            return f"{spelled} is {'not so' if array[row].is_valid else 'null'}"

        return ~met, why

    return RequiringStep(schema, requirement_of(statement), unmet)
