"""`fill … with` an expression: a value of the row's other cells in the place of nulls."""

from __future__ import annotations

import numpy as np

from mangler.expressions.value import Bound, Failure, cast_to
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.fill.common import IDLE, advise, count_empties, refuse_other_type
from mangler.steps.shared.columnwise import apply_where, column_remarks, remarks_on_condition
from mangler.steps.shared.conditions import Condition, bind_in, evaluate
from mangler.steps.shared.failing import Policy, policy_of, remarks_on_failures
from mangler.steps.shared.new_values import new_cells, put_in
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Schema
from mangler.table.select import Selection
from mangler.table.stored_types import with_changed
from mangler.table.tally import Tally


@dataclass(frozen=True)
class FillWith(RowStep):
    schema: Schema
    selection: Selection
    bounds: dict[int, Bound]
    condition: Condition | None
    policy: Policy

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        batch, met, tally = apply_where(batch, self.condition)
        names = tuple(self.schema.names)
        values = {}
        failures: list[Failure] = []
        for index, bound in self.bounds.items():
            old = batch.columns[index]
            count_empties(old, tally)
            wanted = np.asarray(old.is_null())
            if met is not None:
                wanted = wanted & met
            if not wanted.any():
                continue
            value = evaluate(bound, batch, names)
            values[index], failed = new_cells(value, old, wanted, self.policy, tally, len(batch))
            failures += failed
        return put_in(batch, values, failures, self.policy, tally), tally

    def remarks(self, tally: Tally) -> list[str]:
        advice = [*remarks_on_condition(tally), *remarks_on_failures(tally), *advise(tally)]
        return column_remarks(self.selection, tally, advice, IDLE)


def fill_with_expression(
    statement: Statement, schema: Schema, selection: Selection, usage: str, condition: Condition | None
) -> FillWith:
    bound = bind_in(statement, statement.values["with"], schema, usage)
    bounds = {}
    for index in selection.indices:
        column = schema.columns[index]
        if bound.kind is not None:
            refuse_other_type(column, bound.kind, bound.span)
        bounds[index] = cast_to(bound, column.type)
    after = with_changed(schema, bounds)
    return FillWith(after, selection, bounds, condition, policy_of(statement))
