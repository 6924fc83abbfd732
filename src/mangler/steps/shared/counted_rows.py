"""Steps whose result for a row depends on how many rows are before it."""

from __future__ import annotations

from mangler.table.batch import Batch
from mangler.table.contract import OrderedStep


class CountingStep(OrderedStep[int]):
    """The state is a number of rows."""

    def initial(self) -> int:
        return 0

    def summarise(self, batch: Batch) -> int:
        return len(batch)

    def combine(self, earlier: int, later: int) -> int:
        return earlier + later
