"""Rows put in another order."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pyarrow as pa

from mangler.kernels.keys.keys import Codes
from mangler.table.batch import Batch
from mangler.table.in_order import in_order
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
    partitioned = PartitionedRows(budget, blocks, hold=None)

    def deal_out(part: tuple[Batch, Codes]) -> tuple[Batch, Codes]:
        batch, mine = part
        numbered = batch.with_columns((*batch.columns, pa.array((mine % step).astype(np.int32))))
        return partitioned.arranged(numbered, mine // step)

    def put_in_order(number: int) -> list[Batch]:
        whole = concat_batches(list(partitioned.part(number)), partitioned.origin)
        within = np.empty(len(whole), np.int64)
        within[np.asarray(whole.columns[-1])] = np.arange(len(whole))
        return list(take_batches(whole.with_columns(whole.columns[:-1]), within))

    for arranged, starts in in_order(_with_their(ordinal, rows), deal_out, budget.threads):
        partitioned.keep(arranged, starts)
    for block in in_order(range(blocks), put_in_order, budget.threads):
        yield from block


def _with_their(ordinal: Codes, rows: SpillableRows | RowPartition) -> Iterator[tuple[Batch, Codes]]:
    """Batches, each with the places of its rows in the new order.

    Of many rows several batches are put together: each goes to all blocks, and pieces would be as many as batches times
    blocks.
    """
    at, count = 0, 0
    held: list[Batch] = []
    for batch in rows.consume():
        held.append(batch)
        count += len(batch)
        if count * MOST_DEALT >= len(ordinal) or at + count == len(ordinal):
            yield concat_batches(held, rows.origin), ordinal[at : at + count]
            at, count, held = at + count, 0, []


MOST_DEALT = 64
"""Batches that are dealt out, about."""
