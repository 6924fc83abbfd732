"""Rows put in another order."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pyarrow as pa

from mangler.kernels.keys import Codes
from mangler.table.batch import Batch
from mangler.table.dealt import Dealt, Part
from mangler.table.gathered import BLOCK, Gathered, taken, together
from mangler.table.room import Room


def put_in_order(rows: Gathered | Part, order: Codes, room: Room) -> Iterator[Batch]:
    """The rows in this order, in batches of a block; `rows` holds them no longer.

    They go to the block where they come out first, and are put in order there: of a block all cells are near by, and
    to take cells from all over a large table costs several times as much.
    """
    step = max(1024, int(len(order) * BLOCK / max(1, rows.size)))
    if len(order) <= 2 * step:
        yield from taken(together(list(rows.drain()), rows.origin), order)
        return
    place = np.empty(len(order), np.int64)
    place[order] = np.arange(len(order))
    del order
    blocks = -(-len(place) // step)
    dealt, at = Dealt(room, blocks, hold=None), 0
    for batch in rows.drain():
        mine = place[at : at + len(batch)]
        at += len(batch)
        numbered = batch.with_columns((*batch.columns, pa.array((mine % step).astype(np.int32))))
        dealt.add(numbered, mine // step)
    for number in range(blocks):
        whole = together(list(dealt.part(number)), dealt.origin)
        within = np.empty(len(whole), np.int64)
        within[np.asarray(whole.columns[-1])] = np.arange(len(whole))
        yield from taken(whole.with_columns(whole.columns[:-1]), within)
