"""`require one row`: keys that no two rows may have in common."""

from __future__ import annotations

from mangler.kernels.keys.first_seen import NONE, FirstSeenIndex
from mangler.kernels.keys.keys import folded
from mangler.language.declaration import Declaration, Example
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.require.requirement import BECAUSE, FAILURES, WAYS_OUT, Requirement, requirement_of
from mangler.steps.shared.counters import UNMET
from mangler.steps.shared.key_columns import columns_after_by, refuse_lists
from mangler.table.batch import Batch
from mangler.table.contract import OrderedStep
from mangler.table.schema import Schema
from mangler.table.small import cells_of
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="require one row",
    usage="require one row per COLUMNS [anycase] [failures (stop|aside|warn)] [because TEXT]",
    meaning="No two rows may be alike in all of these columns. The first of them is as it should be, and those after it"
    " are not. Null is like null. Up to 72 bytes of memory are taken for each different key.",
    clauses={"anycase": "Texts are alike in any letter case.", "failures": FAILURES, "because": BECAUSE},
    examples=(
        Example(
            "require one row per kiln, week failures aside",
            "kiln | week\n007 | 18\n012 | 18\n007 | 18",
            'kiln | week\n007 | 18\n012 | 18\naside "kiln 007, week 18 is that of row 1 too"',
        ),
    ),
    counters=UNMET,
)


@dataclass(frozen=True)
class RequireOneRow(OrderedStep[FirstSeenIndex]):
    schema: Schema
    indices: tuple[int, ...]
    anycase: bool
    requirement: Requirement
    ways_out = WAYS_OUT

    def initial(self) -> FirstSeenIndex:
        return FirstSeenIndex()

    def summarise(self, batch: Batch) -> FirstSeenIndex:
        columns = [folded(batch.columns[index], self.anycase) for index in self.indices]
        return FirstSeenIndex.of(columns, batch.rows)

    def combine(self, earlier: FirstSeenIndex, later: FirstSeenIndex) -> FirstSeenIndex:
        earlier.extend(later)
        return earlier

    def apply(self, batch: Batch, before: FirstSeenIndex, own: FirstSeenIndex) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch))
        columns = [batch.columns[index] for index in self.indices]
        earlier = before.first_row_of(own)

        def why(row: int) -> str:
            key = ", ".join(
                f"{self.schema.names[index]} {cells_of(column.slice(row, 1))[0] or 'null'}"
                for index, column in zip(self.indices, columns, strict=True)
            )
            return f"{key} is that of row {earlier[row]:,} too"

        out = self.requirement.hold(batch, earlier != NONE, why, tally)
        tally.rows_out = len(out)
        return out, tally

    def remarks(self, tally: Tally) -> list[str]:
        return self.requirement.remarks(tally)

    def warnings(self, tally: Tally) -> list[str]:
        return self.requirement.warnings(tally)


def bind(statement: Statement, schema: Schema) -> RequireOneRow:
    indices = columns_after_by(statement, schema, DECLARATION.usage, "alike", "per")
    refuse_lists(schema, indices, statement.span_of("per"))
    return RequireOneRow(schema, indices, statement.has("anycase"), requirement_of(statement))
