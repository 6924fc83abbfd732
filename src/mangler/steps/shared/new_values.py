"""New values for the cells of columns: what make, change, fill, convert and map do alike."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.value import Failure, Value, only_where
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.fields import entries_of, made_of
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import Flags
from mangler.kernels.values.spelled import encodes, spelled
from mangler.steps.shared.failing import Policy, settle_failures, take_out
from mangler.steps.shared.fitting import fitted
from mangler.table.batch import Batch
from mangler.table.tally import Tally


def new_cells(
    value: Value, old: ColumnArray, rows: Flags | None, policy: Policy, tally: Tally, count: int
) -> tuple[ColumnArray, tuple[Failure, ...]]:
    """A column of the values for these rows (None: all), and the rows of them that fail.

    The other rows stay as they are in `old`, and are null where there is no old column.
    """
    array, failures = value.settled(count), value.failures
    if old is not None and (
        rows is not None or policy.name == "keep"
    ):  # some cells stay, and the column with them
        array, unfit = fitted(array, old)
        failures += unfit
    failed = failures if rows is None else only_where(failures, rows)
    array = settle_failures(array, old, failed, policy, tally)
    if rows is not None:
        other = pa.scalar(None, array.type) if old is None else old
        array = pc.if_else(from_numpy(rows), array, other)
    return array, failed


def put_in(
    batch: Batch, values: Mapping[int, Any], failures: Sequence[Failure], policy: Policy, tally: Tally
) -> Batch:
    """The batch with these columns in their places, without rows that fail; counts what changed."""
    batch, stay = take_out(batch, failures, policy, tally)
    columns, before = entries_of(batch.columns), made_of(batch.columns, list(values))
    for (index, array), old in zip(values.items(), before, strict=True):
        new = array if stay is None else array.filter(from_numpy(stay))
        count_changes(old, new, tally)
        columns[index] = new
    tally.rows_out = len(batch)
    return batch.with_columns(columns)


def count_changes(before: ColumnArray, after: Any, tally: Tally) -> None:
    """Cells that changed, nulls made and filled."""
    if before is after:
        return
    was_null, is_null = np.asarray(before.is_null()), np.asarray(after.is_null())
    tally.counts["nulls_made"] += int(np.count_nonzero(is_null & ~was_null))
    tally.counts["nulls_filled"] += int(np.count_nonzero(was_null & ~is_null))
    if before.type != after.type:
        tally.counts["cells_changed"] += int(np.count_nonzero(~(was_null & is_null)))
        return
    if not encodes(before):  # Arrow compares no lists
        before, after = spelled(before), spelled(after)
    same = flags_of(pc.equal(before, after)) | (was_null & is_null)
    tally.counts["cells_changed"] += int(np.count_nonzero(~same))
