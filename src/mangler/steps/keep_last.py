"""`keep last`: the last rows of the table, or of each group."""

from __future__ import annotations

from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.steps.keep_first import ALL_STAY
from mangler.steps.within.binding import SORTED_BY, WITHIN, group_of
from mangler.steps.within.choosing import KeepPlaces, keep_places
from mangler.table.schema import Schema

DECLARATION = Declaration(
    name="keep last",
    usage="keep last NUMBER (rows|row) [within COLUMNS|within all rows] [sorted by {COLUMN [descending]}, …]",
    meaning="Keeps so many rows, the last ones of the table or of each group, and drops all others. Rows that stay are"
    " where they were: sorted by says only which of them are the last.",
    clauses={"within": WITHIN, "within all rows": "The whole table is one group.", "sorted by": SORTED_BY},
    examples=(
        Example("keep last 1 row", "kiln\n007\n012\n031", "kiln\n031"),
        Example(
            "keep last 1 row within kiln",
            "kiln | peak\n007 | 998\n012 | 1200\n007 | 1222",
            "kiln | peak\n012 | 1200\n007 | 1222",
        ),
    ),
)


def bind(statement: Statement, schema: Schema) -> KeepPlaces:
    count = statement.number("number")
    assert count is not None
    group = group_of(statement, schema, DECLARATION.usage)
    return keep_places(schema, group, count, True, statement.span, ALL_STAY)
