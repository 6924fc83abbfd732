"""Keys that differ from other keys only in letter case: groups that were likely meant to be one."""

from __future__ import annotations

from collections.abc import Sequence

import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.keys import folded, keys_of
from mangler.kernels.values.format_values import format_values
from mangler.table.tally import Tally

MOST_KEYS, MOST_BYTES = 100_000, 16 << 20
"""Of more different keys, or of longer ones, nothing is told: they would have to be held together."""


class CaseTwins:
    """Takes different keys, and counts in the end those that are another one's twin."""

    def __init__(self, wanted: bool) -> None:
        self._batches: list[Sequence[ColumnArray]] | None = [] if wanted else None
        self._count = self._bytes = 0

    @property
    def are_wanted(self) -> bool:
        """Whether more keys are of any use."""
        return self._batches is not None

    def add(self, keys: Sequence[ColumnArray]) -> None:
        """Takes keys none of which came before; a column for each of their parts."""
        if self._batches is None or not keys:
            return
        self._count += len(keys[0])
        texts = [column for column in keys if pa.types.is_string(column.type)]
        self._bytes += sum(pc.sum(pc.binary_length(column)).as_py() or 0 for column in texts)
        if self._count > MOST_KEYS or self._bytes > MOST_BYTES:
            self._batches = None
            return
        if len(keys[0]):
            self._batches.append(keys)

    def note(self, tally: Tally) -> None:
        """Counts the keys that are equal to an earlier one except for letter case, with the first of them."""
        if not self._batches:
            return
        columns = [
            pa.concat_arrays([batch[i] for batch in self._batches]) for i in range(len(self._batches[0]))
        ]
        if not any(pa.types.is_string(column.type) for column in columns):
            return
        keys = keys_of([folded(column, True) for column in columns], self._count)
        surplus = self._count - keys.count
        if not surplus:
            return
        tally.counts["case_twins"] += surplus
        shown = [format_values(column).to_pylist() for column in columns]
        spelled: dict[int, list[str]] = {}
        for row, code in enumerate(keys.codes.tolist()):
            spelled.setdefault(code, []).append(" ".join(str(column[row]) for column in shown))
        pairs = sorted(sorted(names)[:2] for names in spelled.values() if len(names) > 1)
        tally.histogram("case_twin_names")[f'"{pairs[0][0]}" and "{pairs[0][1]}"'] += 1


def twins_told(tally: Tally, what: str, way: str = "anycase takes them as one") -> list[str]:
    """`3 groups differ from others only in letter case …`"""
    count = tally.counts["case_twins"]
    if not count:
        return []
    names = next(iter(tally.histograms.get("case_twin_names", {})), "")
    verb = f"{what} differs from another one" if count == 1 else f"{what}s differ from others"
    return [f"{count:,} {verb} only in letter case, such as {names}; {way}"]
