"""The clause `where`: tested once per row before the statement."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.expressions.bind import bind_condition, bind_expression
from mangler.expressions.scope import Surroundings
from mangler.expressions.value import Bound, Frame, Kind, Value
from mangler.kernels.text.fields import ByName
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import Flags, TooLargeError
from mangler.language.expression import Expression
from mangler.language.mistake import extract_does_not_fit
from mangler.language.statement import Statement
from mangler.language.usage import parse_usage
from mangler.late_dataclass import dataclass
from mangler.steps.shared.failing import STOP, Policy, take_out
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.tally import Tally


@dataclass(frozen=True)
class Condition:
    """A condition on the columns as they are before the step."""

    bound: Bound
    names: Sequence[str]
    policy: Policy = STOP

    def test(self, batch: Batch, tally: Tally) -> tuple[Batch, Flags]:
        """The batch without rows whose condition fails, and the rows that meet it; what is null does not."""
        value = evaluate(self.bound, batch, self.names)
        array = value.settled(len(batch))
        batch, stay = take_out(batch, value.failures, self.policy, tally)
        if stay is not None:
            array = array.filter(stay)
        met = flags_of(array)
        count, nulls = int(np.count_nonzero(met)), array.null_count
        tally.counts["rows_met"] += count
        tally.counts["rows_null"] += nulls
        tally.counts["rows_false"] += len(array) - count - nulls
        return batch, met


def condition_of(statement: Statement, schema: Schema, usage: str, policy: Policy = STOP) -> Condition | None:
    """What a statement's `where` means on these columns; None where it has none."""
    if not statement.has("where"):
        return None
    around = surroundings(statement, schema, usage)
    return Condition(bind_condition(statement.values["where"], around), schema.names, policy)


def surroundings(
    statement: Statement, schema: Schema, usage: str, cell: Kind = None, has_cell: bool = False
) -> Surroundings:
    words = tuple(parse_usage(statement.verb, usage).clause_words()) if usage != statement.verb else ()
    return Surroundings(schema, statement.scope, cell, has_cell, clause_words=words)


def bind_in(statement: Statement, expression: Expression, schema: Schema, usage: str) -> Bound:
    """An expression of a statement on these columns."""
    return bind_expression(expression, surroundings(statement, schema, usage))


def evaluate(bound: Bound, batch: Batch, names: Sequence[str], cell: Any = None) -> Value:
    """The values of an expression for the rows of a batch."""
    try:
        return bound.evaluate(frame_of(batch, names, cell))
    except (TooLargeError, pa.ArrowCapacityError) as error:
        rows = f"rows {batch.rows[0]:,} to {batch.rows[-1]:,}"
        raise extract_does_not_fit(
            "too-large",
            f"{rows}: {error}",
            "Make shorter texts: repeat and pad grow with their number. --memory allows more at once, up to 2 GB.",
            bound.span,
        ) from None


def frame_of(batch: Batch, names: Sequence[str], cell: Any = None) -> Frame:
    return Frame(ByName(names, batch.columns), batch.rows, batch.origin.file, cell)
