"""Rows that a condition leaves because a text in it is there in another letter case only."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.left_behind import left_by_case_anywhere
from mangler.kernels.text.patterns import escape, flags_of
from mangler.kernels.text.text_view import Flags
from mangler.language.expression import Column, Expression, Operation
from mangler.language.literals import Text
from mangler.language.names import parts_of
from mangler.language.spelling import spell_text
from mangler.late_dataclass import dataclass
from mangler.table.schema import Schema, ValueType
from mangler.table.tally import Tally

FORMS = {"contains": "{}", "starts with": "^{}", "ends with": "{}$", "=": "^{}$"}
"""Tests of a column with a text, and the pattern that looks for it."""
FUNCTION = "lower"


@dataclass(frozen=True)
class TextTest:
    """A test of a text column with a text that has letters."""

    index: int
    name: str
    operator: str
    text: str

    def by_case(self, column: ColumnArray) -> Flags:
        """Cells that hold the text in another letter case only."""
        if not pa.types.is_string(column.type):
            return np.zeros(len(column), np.bool_)
        may = np.ones(len(column), np.bool_)
        if self.text.isascii():  # far cheaper than a pattern, and mostly settles it
            may = left_by_case_anywhere(column, [self.text])
            if not may.any():
                return may
        cells = column.filter(from_numpy(may))
        pattern = FORMS[self.operator].format(escape(self.text))
        found = flags_of(pc.match_substring_regex(cells, pattern=f"(?is:{pattern})"))
        may[may] = found & ~flags_of(pc.match_substring_regex(cells, pattern=f"(?s:{pattern})"))
        return may


def text_tests(condition: Expression, schema: Schema) -> tuple[TextTest, ...]:
    """The tests of a condition whose texts may be met in another letter case."""
    found = []
    for part in parts_of(condition):
        if not isinstance(part, Operation) or part.operator not in FORMS or len(part.operands) != 2:
            continue
        column, text = part.operands
        if not (isinstance(column, Column) and isinstance(text, Text)) or column.name not in schema.names:
            continue
        index = schema.names.index(column.name)
        if schema.columns[index].type is ValueType.TEXT and text.value.lower() != text.value.upper():
            found.append(TextTest(index, column.name, part.operator, text.value))
    return tuple(found)


def count_case_misses(
    tests: Sequence[TextTest], columns: Sequence[ColumnArray], left: Flags, tally: Tally
) -> None:
    """Counts, of the rows that do not meet the condition, those where a text is there in another letter case."""
    if not tests or not left.any():
        return
    every = bool(left.all())
    for number, test in enumerate(tests):
        column = columns[test.index]
        missed = test.by_case(column if every else column.filter(from_numpy(left)))
        tally.histogram("tests_missed_by_case")[str(number)] += int(np.count_nonzero(missed))


def case_misses_told(tests: Sequence[TextTest], tally: Tally) -> list[str]:
    """A remark for each test."""
    counts = tally.histograms.get("tests_missed_by_case", Counter())
    told = []
    for number, test in enumerate(tests):
        count = counts.get(str(number), 0)
        if count:
            rows = "1 row has" if count == 1 else f"{count:,} rows have"
            form = f"{FUNCTION}({test.name}) {test.operator} {spell_text(test.text.lower())}"
            told.append(
                f"{rows} {spell_text(test.text)} in {test.name} in another letter case only;"
                f" for any letter case write {form}"
            )
    return list(dict.fromkeys(told))
