"""`dedupe … leaving first`: rows go on as they come."""

from __future__ import annotations

import numpy as np

from mangler.kernels.keys.first_seen import NONE, FirstSeenIndex
from mangler.kernels.keys.keys import folded
from mangler.kernels.text.growth import refuse_batch_beyond
from mangler.kernels.values.format_values import format_values
from mangler.late_dataclass import dataclass
from mangler.steps.dedupe.remarks import alike_to_none
from mangler.steps.shared.columnwise import such_as
from mangler.table.batch import Batch
from mangler.table.contract import OrderedStep
from mangler.table.schema import Schema, ValueType
from mangler.table.tally import MOST_EXAMPLES, Tally

LOOKED_AT = 200_000
"""Rows of an extract of which keys are also remembered without letter case, for a remark."""


@dataclass
class Seen:
    """The keys of some rows; and of the first rows of an extract, the keys without letter case."""

    keys: FirstSeenIndex
    folded: FirstSeenIndex


@dataclass(frozen=True)
class DedupeAsTheyCome(OrderedStep[Seen]):
    """Lets the first row of each key pass at once; what was seen is remembered."""

    schema: Schema
    indices: tuple[int, ...]
    anycase: bool

    def initial(self) -> Seen:
        return Seen(FirstSeenIndex(), FirstSeenIndex())

    def summarise(self, batch: Batch) -> Seen:
        columns = [folded(batch.columns[index], self.anycase) for index in self.indices]
        first = self._first(batch)
        without_case = [folded(batch.columns[index].slice(0, first), True) for index in self.indices]
        return Seen(
            FirstSeenIndex.of(columns, batch.rows), FirstSeenIndex.of(without_case, batch.rows[:first])
        )

    def combine(self, earlier: Seen, later: Seen) -> Seen:
        earlier.keys.extend(later.keys)
        earlier.folded.extend(later.folded)
        refuse_batch_beyond(earlier.keys.size, "the keys that were seen")
        return earlier

    def apply(self, batch: Batch, before: Seen, own: Seen) -> tuple[Batch, Tally]:
        tally = Tally(rows_in=len(batch))
        fresh = before.keys.first_row_of(own.keys) == NONE
        if first := self._first(batch):
            twins = fresh[:first] & (before.folded.first_row_of(own.folded) != NONE)
            tally.counts["case_twins"] += int(np.count_nonzero(twins))
            shown = format_values(batch.columns[self._texts()[0]])
            where = np.flatnonzero(twins)[:MOST_EXAMPLES].tolist()
            tally.note_found((int(batch.rows[i]), str(shown[i].as_py())) for i in where)
        out = batch if fresh.all() else batch.filter(fresh)
        tally.rows_out = len(out)
        return out, tally

    def _first(self, batch: Batch) -> int:
        """How many rows of a batch are among the first of the extract: of those letter case is looked at."""
        if self.anycase or not self._texts():
            return 0
        return int(np.count_nonzero(np.cumprod(batch.rows <= LOOKED_AT)))

    def _texts(self) -> list[int]:
        return [index for index in self.indices if self.schema.columns[index].type is ValueType.TEXT]

    def remarks(self, tally: Tally) -> list[str]:
        messages = [alike_to_none(len(self.indices) < len(self.schema.columns))]
        messages = messages if tally.rows_in and tally.rows_in == tally.rows_out else []
        if count := tally.counts["case_twins"]:
            rows = "1 row stayed that differs" if count == 1 else f"{count:,} rows stayed that differ"
            where = f" of the first {LOOKED_AT:,}" if tally.rows_in > LOOKED_AT else ""
            messages.append(
                f"{rows} from an earlier one only in letter case{where}{such_as(tally)}; anycase takes them as alike"
            )
        return messages
