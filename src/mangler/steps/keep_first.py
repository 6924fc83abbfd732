"""`keep first`: the first rows of the table, or of each group."""

from __future__ import annotations

from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.counted_rows import CountingStep
from mangler.steps.within.binding import SORTED_BY, WITHIN, group_of, is_within
from mangler.steps.within.choosing import KeepPlaces, keep_places
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="keep first",
    usage="keep first NUMBER (rows|row) [within COLUMNS|within all rows] [sorted by {COLUMN [descending]}, …]",
    meaning="Keeps so many rows, the first ones of the table or of each group, and drops all others. Rows that stay are"
    " where they were: sorted by says only which of them are the first.",
    clauses={"within": WITHIN, "within all rows": "The whole table is one group.", "sorted by": SORTED_BY},
    examples=(
        Example("keep first 2 rows", "kiln\n007\n012\n031", "kiln\n007\n012"),
        Example(
            "keep first 1 row within kiln sorted by peak descending",
            "kiln | peak integer\n007 | 998\n012 | 1200\n007 | 1222",
            "kiln | peak integer\n012 | 1200\n007 | 1222",
        ),
    ),
)
ALL_STAY = "changed nothing: no group has more rows"


@dataclass(frozen=True)
class KeepFirst(CountingStep):
    """Of the whole table as it is. The state is a number of rows."""

    schema: Schema
    count: int

    def apply(self, batch: Batch, before: int, own: int) -> tuple[Batch, Tally]:
        out = batch.slice(0, max(0, min(own, self.count - before)))
        return out, Tally(rows_in=own, rows_out=len(out))

    def remarks(self, tally: Tally) -> list[str]:
        return ["changed nothing: the table has no more rows"] if tally.rows_in == tally.rows_out > 0 else []


def bind(statement: Statement, schema: Schema) -> KeepFirst | KeepPlaces:
    count = statement.number("number")
    assert count is not None
    if not is_within(statement) and not statement.has("sorted by"):
        return KeepFirst(schema, count)
    group = group_of(statement, schema, DECLARATION.usage)
    return keep_places(schema, group, count, False, statement.span, ALL_STAY)
