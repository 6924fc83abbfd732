"""`recase`: cells in another letter case."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.letter_case import sentence_case, title_case
from mangler.kernels.text.patterns import flags_of, values_recur
from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.shared.columnwise import ColumnwiseStep, choose, where
from mangler.steps.shared.counters import CHANGES, CONDITION
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="recase",
    usage="recase COLUMNS (upper|lower|title|sentence) [where CONDITION]",
    meaning="Puts the letters of cells into another case. Letters that have no other case stay.",
    clauses={
        "upper": "All letters as capitals.",
        "lower": "All letters small.",
        "title": "Each word's first letter as a capital, the others small; an apostrophe does not start a word.",
        "sentence": "The first letter of the cell as a capital, the others small.",
    },
    examples=(
        Example("recase studio title", "studio\nCLAY WORKS\nodd's kilns", "studio\nClay Works\nOdd's Kilns"),
        Example("recase result lower", "result\nGood\nGOOD", "result\ngood\ngood"),
        Example("recase notes sentence", "notes\nLID STUCK. freed", "notes\nLid stuck. freed"),
    ),
    counters=(*CHANGES, *CONDITION),
)

CASES: dict[str, Callable[[Any], Any]] = {
    "upper": pc.utf8_upper,
    "lower": pc.utf8_lower,
    "title": title_case,
    "sentence": sentence_case,
}


def bind(statement: Statement, schema: Schema) -> ColumnwiseStep:
    case = next(case for case in CASES if statement.has(case))

    def work(column: ColumnArray, tally: Tally) -> ColumnArray:
        if values_recur(column):
            encoded = as_dictionary(column)
            out = pc.take(CASES[case](encoded.dictionary), encoded.indices)
        else:
            out = CASES[case](column)
        changed = int(np.count_nonzero(flags_of(pc.not_equal(column, out))))
        tally.counts["cells_changed"] += changed
        return out if changed else column

    selection = choose(statement, schema, DECLARATION.usage)
    return ColumnwiseStep(
        schema,
        statement,
        selection,
        work,
        _advise,
        f"these cells are in {case} case already",
        where(statement, schema, DECLARATION.usage),
    )


def _advise(tally: Tally) -> list[str]:  # noqa: ARG001
    return []
