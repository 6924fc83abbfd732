"""`require only`: the values that columns may hold."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import Flags
from mangler.kernels.text.whole import WholeMatcher, match_whole
from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.require.requirement import BECAUSE, FAILURES, RequiringStep, requirement_of
from mangler.steps.shared.columnwise import choose
from mangler.steps.shared.counters import MISSES, UNMET
from mangler.steps.shared.matching import whole_matcher
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="require only",
    usage="require only MATCHERS in COLUMNS [anycase] [failures (stop|aside|warn)] [because TEXT]",
    meaning="Every cell of these columns must be one of the texts, or match one of the patterns, as a whole. White"
    " space around a cell is ignored; null passes.",
    clauses={
        "anycase": "Texts match in any letter case; patterns have the flag i for that.",
        "failures": FAILURES,
        "because": BECAUSE,
    },
    examples=(
        Example(
            'require only "good", "cracked", /re-?fire/ in result failures aside',
            "result\ngood\nrefire\nnull\nGood",
            'result\ngood\nrefire\nnull\naside "result is \\"Good\\""',
        ),
    ),
    counters=(*UNMET, *MISSES),
)
LONGEST = 40


def bind(statement: Statement, schema: Schema) -> RequiringStep:
    indices = choose(statement, schema, DECLARATION.usage, "in").indices
    matcher = whole_matcher(statement)

    def unmet(batch: Batch, tally: Tally) -> tuple[Flags, Callable[[int], str]]:  # noqa: ARG001
        others = [_others(batch.columns[index], matcher) for index in indices]

        def why(row: int) -> str:
            first = next(index for index, flags in zip(indices, others, strict=True) if flags[row])
            value = batch.columns[first][row].as_py()
            shown = value if len(value) <= LONGEST else f"{value[: LONGEST // 2]}…{value[-LONGEST // 4 :]}"
            return f'{schema.names[first]} is "{shown}"'

        return np.logical_or.reduce(others) if others else np.zeros(len(batch), np.bool_), why

    return RequiringStep(schema, requirement_of(statement), unmet)


def _others(column: ColumnArray, matcher: WholeMatcher) -> Flags:
    """The cells that are none of the values."""
    return np.asarray(column.is_valid()) & (match_whole(column, matcher).codes < 0)
