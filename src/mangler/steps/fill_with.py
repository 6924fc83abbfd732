"""`fill … with` an expression: a value of the row's other cells in the place of nulls."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.value import Bound, Failure, cast_to, only_where
from mangler.language.statement import Statement
from mangler.steps.columnwise import column_remarks, remarks_on_condition
from mangler.steps.conditions import Condition, bind_in, evaluate
from mangler.steps.failing import Policy, mend, policy_of, remarks_on_failures, take_out
from mangler.steps.fill import IDLE, advise, count_empties, refuse_other_type
from mangler.steps.fitting import fitted
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.select import Selection
from mangler.table.tally import Tally


@dataclass(frozen=True)
class FillWith:
    schema: Schema
    selection: Selection
    bounds: dict[int, Bound]
    condition: Condition | None
    policy: Policy

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch))
        met = None
        if self.condition is not None:
            batch, met = self.condition.test(batch, tally)
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
            fresh, unfit = fitted(value.settled(len(batch)), old)
            failed = only_where(value.failures + unfit, wanted)
            array = mend(fresh, old, failed, self.policy, tally)
            values[index] = pc.if_else(pa.array(wanted), array, old)
            failures += failed
        batch, stay = take_out(batch, failures, self.policy, tally)
        columns = list(batch.columns)
        for index, array in values.items():
            filled = array if stay is None else array.filter(pa.array(stay))
            count = columns[index].null_count - filled.null_count
            tally.nulls_filled += count
            tally.cells_changed += count
            columns[index] = filled
        tally.rows_out = len(batch)
        return batch.with_columns(columns), tally

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
            refuse_other_type(column, bound.kind, bound.place)
        bounds[index] = cast_to(bound, column.type)
    return FillWith(schema, selection, bounds, condition, policy_of(statement))
