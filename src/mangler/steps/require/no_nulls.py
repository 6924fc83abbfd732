"""`require no nulls`: columns that every row must have a value in."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from mangler.kernels.text.text_view import Flags
from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.require.requirement import BECAUSE, FAILURES, RequiringStep, requirement_of
from mangler.steps.shared.columnwise import choose
from mangler.steps.shared.counters import UNMET
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="require no nulls",
    usage="require no nulls in COLUMNS [failures (stop|aside|warn)] [because TEXT]",
    meaning="Every row must have a value in these columns. Empty and blank texts are values: make them null before, by"
    ' nullify "" or read nulls "".',
    clauses={"failures": FAILURES, "because": BECAUSE},
    examples=(
        Example(
            "require no nulls in kiln, potter failures aside",
            "kiln | potter\n007 | Pim Verhoe\n012 | null",
            'kiln | potter\n007 | Pim Verhoe\naside "potter is null"',
        ),
    ),
    counters=UNMET,
)


def bind(statement: Statement, schema: Schema) -> RequiringStep:
    indices = choose(statement, schema, DECLARATION.usage, "in", types=None).indices

    def unmet(batch: Batch, tally: Tally) -> tuple[Flags, Callable[[int], str]]:  # noqa: ARG001
        flags = np.zeros(len(batch), np.bool_)
        for index in indices:
            if batch.columns[index].null_count:
                flags |= np.asarray(batch.columns[index].is_null())

        def why(row: int) -> str:
            names = [schema.names[i] for i in indices if not batch.columns[i][row].is_valid]
            return f"{' and '.join(names)} {'is' if len(names) == 1 else 'are'} null"

        return flags, why

    return RequiringStep(schema, requirement_of(statement), unmet)
