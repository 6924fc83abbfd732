"""`fill`: a value in the place of nulls, the same for all or the one above."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Number, Text, Truth
from mangler.language.mistake import Mistake
from mangler.language.statement import Statement
from mangler.steps.fill.common import IDLE, advise, count_empties, refuse_other_type
from mangler.steps.shared.columnwise import ColumnwiseStep, choose, where
from mangler.steps.shared.counters import CHANGES, CONDITION, FAILED
from mangler.steps.shared.failing import FAILURES
from mangler.steps.shared.literals import literal_kind, scalar_of
from mangler.table.contract import BoundStep
from mangler.table.schema import Schema
from mangler.table.select import Selection
from mangler.table.stored_types import with_changed
from mangler.table.tally import Tally

if TYPE_CHECKING:
    from mangler.steps.shared.conditions import Condition

DECLARATION = Declaration(
    name="fill",
    usage="fill COLUMNS (with EXPR|down|up) [within COLUMNS] [where CONDITION] [failures (stop|aside|null)]",
    meaning="Puts a value in the place of nulls, and only of nulls: empty texts stay, and the summary counts them.",
    clauses={
        "with": "The value, or an expression that makes it of the row's other cells; it is of the column's type.",
        "failures": f"{FAILURES}; null leaves the cell null.",
        "down": "The value of the nearest row above that has one; nulls above the first value stay.",
        "up": "The value of the nearest row below that has one; it must see all rows first.",
        "within": "Only rows that agree in these columns give a value to each other; for down and up.",
    },
    examples=(
        Example('fill studio with "unknown"', 'studio\nQuayside\nnull\n""', 'studio\nQuayside\nunknown\n""'),
        Example(
            'fill contacts with "{lower(studio)}@example.org" where result = "good"',
            "studio | contacts | result\nQuayside | null | good\nQuayside | null | cracked",
            "studio | contacts | result\nQuayside | quayside@example.org | good\nQuayside | null | cracked",
        ),
        Example(
            "fill studio down",
            "kiln | studio\n007 | null\n007 | Clay Works\n012 | null",
            "kiln | studio\n007 | null\n007 | Clay Works\n012 | Clay Works",
        ),
        Example("fill kiln up", "kiln\nnull\n007\nnull", "kiln\n007\n007\nnull"),
        Example(
            "fill studio down within kiln",
            "kiln | studio\n007 | Clay Works\n115 | Quayside\n007 | null\n115 | null\n012 | null",
            "kiln | studio\n007 | Clay Works\n115 | Quayside\n007 | Clay Works\n115 | Quayside\n012 | null",
        ),
    ),
    counters=(*CHANGES, *CONDITION, *FAILED, "empties_left"),
)


def check(statement: Statement) -> list[Mistake]:
    value = statement.values.get("with")
    mistakes = []
    if isinstance(value, Truth) and value.value is None:
        mistakes.append(
            Mistake(
                "value-needed",
                "nulls cannot be filled with null",
                'Give a value: fill … with "unknown".',
                value.span,
            )
        )
    if value is not None and statement.has("within"):
        mistakes.append(
            Mistake(
                "clause-not-allowed",
                "within goes with down and up: a value does not look at other rows",
                "Leave within out, or write fill … down within ….",
                statement.span_of("within"),
            )
        )
    if value is None and statement.has("failures"):
        mistakes.append(
            Mistake(
                "clause-not-allowed",
                "failures goes with with: down and up cannot fail",
                "Leave it out.",
                statement.span_of("failures"),
            )
        )
    return mistakes


def bind(statement: Statement, schema: Schema) -> BoundStep:
    usage = DECLARATION.usage
    selection = choose(statement, schema, usage, types=None)
    condition = where(statement, schema, usage)
    if not statement.has("with"):
        within = choose(statement, schema, usage, "within", None).indices if statement.has("within") else ()
        from mangler.steps.fill.down import FillDown

        down = FillDown(schema, selection, within, condition)
        if statement.has("down"):
            return down
        from mangler.steps.fill.up import FillUp

        return FillUp(down)
    value = statement.values["with"]
    if isinstance(value, (Text, Truth, Number)):
        return _fill_with(statement, schema, selection, value, condition)
    from mangler.steps.fill.with_expression import fill_with_expression

    return fill_with_expression(statement, schema, selection, usage, condition)


def _fill_with(
    statement: Statement,
    schema: Schema,
    selection: Selection,
    value: Text | Number | Truth,
    condition: Condition | None,
) -> ColumnwiseStep:
    kind = literal_kind(value)
    for index in selection.indices:
        refuse_other_type(schema.columns[index], kind, value.span)

    def work(column: ColumnArray, tally: Tally) -> ColumnArray:
        count_empties(column, tally)
        if not column.null_count:
            return column
        tally.counts["nulls_filled"] += column.null_count
        tally.counts["cells_changed"] += column.null_count
        return pc.fill_null(column, scalar_of(value, column.type))

    after = with_changed(schema, selection.indices)
    return ColumnwiseStep(after, statement, selection, work, advise, IDLE, condition)
