"""`unpivot`: columns become rows."""

from __future__ import annotations

import numpy as np
import pyarrow as pa

from mangler.kernels.text.growth import refuse_repeats
from mangler.kernels.text.repeat import repeated
from mangler.kernels.text.text_view import TooLargeError
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Name
from mangler.language.mistake import Mistake, Refusal, extract_does_not_fit, wrong_recipe
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.columnwise import choose
from mangler.steps.shared.counters import CHANGES
from mangler.steps.shared.new_columns import Placement, placed
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Column, Schema
from mangler.table.select import quote_name
from mangler.table.stored_types import worked_type
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="unpivot",
    usage="unpivot COLUMNS into NAMES [drop nulls]",
    meaning="Makes rows of columns: one row for each of them, with its name in the first of two new columns and its"
    " value in the second. They are where the first of the columns was, and those go; the others repeat. All"
    " must have one type.",
    clauses={"drop nulls": "Values that are null get no row."},
    examples=(
        Example(
            "unpivot bowls, vases into piece, made",
            "kiln | bowls | vases | result\n007 | 4 | 3 | good\n012 | null | 1 | cracked",
            "kiln | piece | made | result\n007 | bowls | 4 | good\n007 | vases | 3 | good\n"
            "012 | bowls | null | cracked\n012 | vases | 1 | cracked",
        ),
        Example(
            "unpivot * except kiln into piece, made drop nulls",
            "kiln | bowls integer | vases integer\n007 | 4 | null\n012 | null | 1",
            "kiln | piece | made integer\n007 | bowls | 4\n012 | vases | 1",
        ),
    ),
    counters=CHANGES,
)


@dataclass(frozen=True)
class Unpivot(RowStep):
    placement: Placement
    names: tuple[str, ...]
    indices: tuple[int, ...]
    drop_nulls: bool
    span: SourceSpan

    @property
    def schema(self) -> Schema:
        return self.placement.schema

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        count, width = len(batch), len(self.indices)
        others = [array for index, array in enumerate(batch.columns) if index not in set(self.indices)]
        try:
            refuse_repeats(others, np.full(count, width))
        except TooLargeError as error:
            raise self._too_large(batch, error) from None
        sources = np.repeat(np.arange(count), width)
        columns = np.tile(np.arange(width), count)
        try:
            values = pa.concat_arrays([batch.columns[index] for index in self.indices])
            values = repeated(values, sources + count * columns)
            if self.drop_nulls and values.null_count:
                there = np.asarray(values.is_valid())
                sources, columns = sources[there], columns[there]
                values = values.drop_null()
            names = repeated(pa.array(self.names, pa.string()), columns)
            carried = [
                None if index in self.indices else repeated(array, sources)
                for index, array in enumerate(batch.columns)
            ]
        except (TooLargeError, pa.ArrowInvalid) as error:
            raise self._too_large(batch, error) from None
        tally = Tally(rows_in=count, rows_out=len(sources))
        tally.counts["cells_changed"] = 2 * len(sources)
        tally.counts["nulls_made"] = values.null_count
        tally.rows_added = len(sources) - len(np.unique(sources))
        put = self.placement.put(carried, [names, values])
        return Batch(tuple(put), batch.rows[sources], batch.origin), tally

    def _too_large(self, batch: Batch, error: Exception) -> Refusal:
        return extract_does_not_fit(
            "too-large",
            f"rows {batch.rows[0]:,} to {batch.rows[-1]:,}: {error}",
            "Each column repeats the others: drop those that are not needed before this step.",
            self.span,
        )

    def remarks(self, tally: Tally) -> list[str]:
        dropped = tally.rows_in * len(self.indices) - tally.rows_out
        if not dropped:
            return []
        messages = [f"{dropped:,} {'value is' if dropped == 1 else 'values are'} null, and got no row"]
        if gone := tally.rows_dropped:
            rows = "1 row had" if gone == 1 else f"{gone:,} rows had"
            messages.append(f"{rows} nothing but nulls there, and nothing is left of them")
        return messages


def bind(statement: Statement, schema: Schema) -> Unpivot:
    selection = choose(statement, schema, DECLARATION.usage, types=None)
    into = statement.names("into")
    assert into is not None
    span = statement.columns().span
    if not selection.indices:
        raise wrong_recipe(
            "no-columns", "no column is meant, so there is nothing to unpivot", "Name the columns.", span
        )
    columns = [schema.columns[index] for index in selection.indices]
    types = {str(worked_type(column)): column for column in columns}
    if len(types) > 1:
        one, other = list(types.values())[:2]
        its, others = (
            (one.type, other.type) if one.type is not other.type else (worked_type(one), worked_type(other))
        )
        raise wrong_recipe(
            "mixed-types",
            f'"{one.name}" is {its}, "{other.name}" is {others}, and they would share a column',
            f"Give them one type first: convert {quote_name(one.name)}, {quote_name(other.name)} to text.",
            span,
        )
    alike = all(column.stored == columns[0].stored for column in columns)
    value = columns[0].renamed(into[1].value) if alike else Column(into[1].value, columns[0].type)
    new = [(Column(into[0].value), into[0].span), (value, into[1].span)]
    placement = placed(statement, schema, selection.indices, new, in_place=True)
    names = tuple(column.name for column in columns)
    return Unpivot(placement, names, selection.indices, statement.has("drop nulls"), span)


def check(statement: Statement) -> list[Mistake]:
    names: tuple[Name, ...] = statement.names("into") or ()
    if len(names) == 2:
        return []
    return [
        Mistake(
            "wrong-number-of-names",
            f"two names are asked for, and {'one is' if len(names) == 1 else f'{len(names)} are'} given",
            "One for the column with the names, one for that with the values: into piece, made.",
            statement.span_of("into"),
        )
    ]
