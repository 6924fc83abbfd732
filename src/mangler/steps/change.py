"""`change`: one expression for many columns."""

from __future__ import annotations

from dataclasses import replace

import pyarrow as pa

from mangler.expressions.bind import bind_expression
from mangler.expressions.value import Bound, Failure, cast_to, stated_places, stored_in_places
from mangler.kernels.values.convert import cast_exactly
from mangler.language.declaration import Declaration, Example
from mangler.language.mistake import wrong_recipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.columnwise import apply_where, choose, column_remarks, remarks_on_condition
from mangler.steps.shared.conditions import Condition, condition_of, evaluate, surroundings
from mangler.steps.shared.counters import CHANGES, CONDITION, FAILED
from mangler.steps.shared.failing import FAILURES, Policy, policy_of, remarks_on_failures
from mangler.steps.shared.literals import fit_literal
from mangler.steps.shared.new_values import new_cells, put_in
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Column, Schema
from mangler.table.select import Selection
from mangler.table.stored_types import changed
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="change",
    usage="change COLUMNS to EXPR [where CONDITION] [failures (stop|aside|null|keep|VALUE)]",
    meaning="Gives the cells of several columns new values by one expression, in which `cell` is the value that is"
    " there. Other columns can be named; all are as they were before the statement.",
    clauses={
        "failures": f"{FAILURES}; null or a value puts that into the cell; keep leaves the cell as it is.",
    },
    examples=(
        Example(
            'change studio, glazes to replace(cell, " ", "_")',
            "studio | glazes\nClay Works | ash white\nnull | celadon",
            "studio | glazes\nClay_Works | ash_white\nnull | celadon",
        ),
        Example(
            'change /_c$/ to text(integer(cell) - 273) where kiln = "007" failures keep',
            "kiln | peak_c\n007 | 1495\n012 | 1222\n007 | tbc",
            "kiln | peak_c\n007 | 1222\n012 | 1222\n007 | tbc",
        ),
    ),
    counters=(*CHANGES, *CONDITION, *FAILED),
)


@dataclass(frozen=True)
class Change(RowStep):
    before: Schema
    schema: Schema
    selection: Selection
    bounds: dict[int, Bound]
    condition: Condition | None
    policy: Policy

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        batch, met, tally = apply_where(batch, self.condition)
        names = tuple(self.before.names)
        values = {}
        failures: list[Failure] = []
        for index, bound in self.bounds.items():
            old = batch.columns[index]
            value = evaluate(bound, batch, names, old)
            array, failed = new_cells(value, old, met, self.policy, tally, len(batch))
            stored = self.schema.columns[index].stored
            if stored is not None and pa.types.is_decimal(stored) and array.type != stored:
                array = cast_exactly(array, stored).array
            values[index] = array
            failures += failed
        return put_in(batch, values, failures, self.policy, tally), tally

    def remarks(self, tally: Tally) -> list[str]:
        advice = [*remarks_on_condition(tally), *remarks_on_failures(tally)]
        return column_remarks(self.selection, tally, advice, "the cells have these values already")


def bind(statement: Statement, schema: Schema) -> Change:
    usage, policy = DECLARATION.usage, policy_of(statement)
    selection = choose(statement, schema, usage, types=None)
    condition = condition_of(statement, schema, usage)
    columns = list(schema.columns)
    bounds = {}
    for index in selection.indices:
        column = columns[index]
        around = surroundings(statement, schema, usage, column.type, has_cell=True)
        around = replace(around, cell_places=stated_places(column.stored))
        bound = bind_expression(statement.values["to"], around)
        kind = bound.kind or column.type
        if kind is not column.type:
            for clause, said in (("where", condition is not None), ("failures", policy.name == "keep")):
                if said:
                    raise wrong_recipe(
                        "mixed-types",
                        f'this makes "{column.name}" {kind}, and {clause} would leave cells that are {column.type}',
                        f"Give a value of the same type, {column.type}(…), or leave {clause} out.",
                        statement.span_of(clause),
                    )
        if policy.literal is not None:
            fit_literal(policy.literal, kind)
        bounds[index] = cast_to(bound, kind)
        literal = policy.literal.value if policy.literal is not None else None
        stays = condition is not None or policy.name == "keep"
        columns[index] = (
            changed(column) if stays else Column(column.name, kind, stored_in_places(bounds[index], literal))
        )
    return Change(schema, Schema(tuple(columns), schema.gone), selection, bounds, condition, policy)
