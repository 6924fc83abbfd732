"""Rows put in another order."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pyarrow as pa

from mangler.kernels.keys.keys import Codes
from mangler.table.batch import Batch
from mangler.table.memory_budget import MemoryBudget
from mangler.table.partitioned_rows import PartitionedRows, RowPartition
from mangler.table.spillable_rows import BLOCK, SpillableRows, concat_batches, take_batches


def external_reorder(
    rows: SpillableRows | RowPartition, order: Codes, budget: MemoryBudget
) -> Iterator[Batch]:
    """The rows in this order, in batches of a block; `rows` holds them no longer.

    They go to the block where they come out first, and are put in order there: of a block all cells are near by, and
    to take cells from all over a large table costs several times as much.
    """
    step = max(1024, int(len(order) * BLOCK / max(1, rows.size)))
    if len(order) <= 2 * step:
        yield from take_batches(concat_batches(list(rows.consume()), rows.origin), order)
        return
    ordinal = np.empty(len(order), np.int64)
    ordinal[order] = np.arange(len(order))
    del order
    blocks = -(-len(ordinal) // step)
    partitioned, at = PartitionedRows(budget, blocks, hold=None), 0
    for batch in rows.consume():
        mine = ordinal[at : at + len(batch)]
        at += len(batch)
        numbered = batch.with_columns((*batch.columns, pa.array((mine % step).astype(np.int32))))
        partitioned.add(numbered, mine // step)
    for number in range(blocks):
        whole = concat_batches(list(partitioned.part(number)), partitioned.origin)
        within = np.empty(len(whole), np.int64)
        within[np.asarray(whole.columns[-1])] = np.arange(len(whole))
        yield from take_batches(whole.with_columns(whole.columns[:-1]), within)
