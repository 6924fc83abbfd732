"""`nullify`: whole cells that mean nothing become null."""

from __future__ import annotations

import numpy as np

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.text_view import with_nulls
from mangler.kernels.text.whole import match_whole
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Text
from mangler.language.patterns import Pattern
from mangler.language.statement import Statement
from mangler.steps.shared.columnwise import ColumnwiseStep, choose, where
from mangler.steps.shared.counters import CHANGES, CONDITION, MISSES
from mangler.steps.shared.matching import (
    advise_on_misses,
    count_beyond_ascii,
    count_misses,
    uses_ascii_classes,
    whole_matcher,
)
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="nullify",
    usage="nullify MATCHERS in COLUMNS [anycase] [where CONDITION]",
    meaning="Makes cells null that are one of these texts as a whole, or match a pattern as a whole. White space"
    ' around a cell is ignored; "" matches empty and blank cells.',
    clauses={"anycase": "Texts match in any letter case; patterns have the flag i for that."},
    examples=(
        Example(
            'nullify "-", /n\\.?a\\.?/i, "" in result',
            'result\n-\n" N.A. "\nna\n"  "\ngood - thin',
            "result\nnull\nnull\nnull\nnull\ngood - thin",
        ),
    ),
    counters=(*CHANGES, *MISSES, *CONDITION),
)


def bind(statement: Statement, schema: Schema) -> ColumnwiseStep:
    selection = choose(statement, schema, DECLARATION.usage, "in")
    matcher = whole_matcher(statement)
    matchers: tuple[Text | Pattern, ...] = statement.values["matchers"]
    ascii_classes = any(map(uses_ascii_classes, matchers))

    def work(column: ColumnArray, tally: Tally) -> ColumnArray:
        match = match_whole(column, matcher)
        count_misses(tally, column, match)
        if ascii_classes:
            count_beyond_ascii(column, tally)
        found = match.codes >= 0
        count = int(np.count_nonzero(found))
        tally.counts["nulls_made"] += count
        tally.counts["cells_changed"] += count
        return with_nulls(column, found) if count else column

    return ColumnwiseStep(
        schema,
        statement,
        selection,
        work,
        advise_on_misses,
        "no cell is one of these as a whole",
        where(statement, schema, DECLARATION.usage),
    )
