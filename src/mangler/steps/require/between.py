"""`require between`: how many rows there must be."""

from __future__ import annotations

from mangler.language.declaration import Declaration, Example
from mangler.language.mistake import Mistake
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.require.requirement import BECAUSE
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Schema
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="require between",
    usage="require between NUMBER and NUMBER rows [failures (stop|warn)] [because TEXT]",
    meaning="As many rows must come to where the statement is, both numbers included. It is known when all rows"
    " were read. Where --rows reads only some of the extract, nothing is required.",
    clauses={
        "failures": "stop (the default) delivers nothing; warn delivers, and the summary warns.",
        "because": BECAUSE,
    },
    examples=(Example("require between 1 and 3 rows", "kiln\n007\n012", "kiln\n007\n012"),),
)


@dataclass(frozen=True)
class RequireBetween(RowStep):
    """`verdict` is asked when all rows have passed."""

    schema: Schema
    least: int
    most: int
    warns: bool
    because: str
    ways_out = "other numbers, or failures warn"

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        return batch, Tally(rows_in=len(batch), rows_out=len(batch))

    def verdict(self, tally: Tally) -> str:
        """Why a whole run of rows is not as required; nothing where it is, or where it only warns."""
        return "" if self.warns else self._why(tally)

    def warnings(self, tally: Tally) -> list[str]:
        return [why] if self.warns and (why := self._why(tally)) else []

    def _why(self, tally: Tally) -> str:
        if self.least <= tally.rows_in <= self.most:
            return ""
        rows = "1 row comes" if tally.rows_in == 1 else f"{tally.rows_in:,} rows come"
        message = f"{rows} to this step, and {self.least:,} to {self.most:,} are required"
        return f"{message}: {self.because}" if self.because else message


def check(statement: Statement) -> list[Mistake]:
    least, most = statement.number("number"), statement.number("and")
    if least is not None and most is not None and least > most:
        return [
            Mistake(
                "not-an-amount",
                f"between {least:,} and {most:,} there is not a number",
                f"Write the lesser one first: require between {most} and {least} rows.",
                statement.span_of("number"),
            )
        ]
    return []


def bind(statement: Statement, schema: Schema) -> RequireBetween:
    least, most = statement.number("number"), statement.number("and")
    because = statement.text("because")
    assert least is not None and most is not None
    warns = statement.choice("failures") == "warn"
    return RequireBetween(schema, least, most, warns, because.value if because else "")
