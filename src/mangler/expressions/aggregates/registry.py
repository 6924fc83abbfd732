"""The aggregates of the language."""

from __future__ import annotations

from mangler.expressions.aggregates import collecting, counting, picking, spread, sums
from mangler.expressions.aggregates.aggregate import Aggregate

IN_ORDER: tuple[Aggregate, ...] = (
    *counting.AGGREGATES,
    *sums.AGGREGATES,
    *collecting.AGGREGATES[2:],
    *spread.AGGREGATES,
    *picking.AGGREGATES,
    *collecting.AGGREGATES[:2],
)
"""In the order of the reference."""

AGGREGATES = {aggregate.name: aggregate for aggregate in IN_ORDER}
