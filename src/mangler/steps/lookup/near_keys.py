"""Keys that a file does not have, and those of it that they are near to."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping, Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANKS
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.keys import Codes, keys_of
from mangler.kernels.keys.lookup import KeyTable, near_forms
from mangler.kernels.keys.near import NearIndex
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import Flags
from mangler.kernels.values.format_values import format_values
from mangler.late_dataclass import dataclass
from mangler.steps.shared.near_pairs import note_pairs
from mangler.table.tally import Tally

BETWEEN = " / "
"""Between the cells of a key where it is reported."""


DIFFERENCES: Mapping[str, Callable[[str], str]] = {
    "letter case": lambda text: text.upper().lower(),
    "white space": lambda text: "".join(character for character in text if character not in BLANKS),
    "zeros in front": lambda text: BETWEEN.join(part.lstrip("0") for part in text.split(BETWEEN)),
}


def told_near(columns: Sequence[ColumnArray], key: str) -> str:
    """` (near "007": zeros in front)`; nothing where the file has no such key. `columns` are its own of the key."""
    other = near_key(columns, key.split(BETWEEN))
    if other is None:
        return ""
    for difference, same in DIFFERENCES.items():
        if same(key) == same(other):
            return f' (near "{other}": {difference})'
    return f' (near "{other}")'


def near_key(columns: Sequence[ColumnArray], cells: Sequence[str]) -> str | None:
    """A key of the file that differs in letter case, white space or zeros in front only."""
    if len(cells) != len(columns):  # a cell holds what is between them
        return None
    spelled = [format_values(column) for column in columns]
    same = np.ones(len(spelled[0]), np.bool_)
    for texts, cell in zip(spelled, cells, strict=True):
        same &= flags_of(pc.equal(near_forms(texts), near_forms(pa.array([cell], pa.string()))[0]))
    if not same.any():
        return None
    row = int(same.argmax())
    return BETWEEN.join(texts[row].as_py() for texts in spelled)


@dataclass(frozen=True)
class NearKeys:
    """The keys of a file by what they are near to; of several columns the last one may be near."""

    index: NearIndex
    texts: tuple[str, ...]
    """The last column of each key."""

    @classmethod
    def of(cls, table: KeyTable, columns: Sequence[ColumnArray], edits: int) -> NearKeys:
        """`columns` are the file's own of the key, as they are compared."""
        first = pa.array(table.rows[table.starts]) if len(table.starts) else pa.array([], pa.int64())
        texts = columns[-1].take(first).to_pylist()
        return cls(NearIndex(texts, _others(columns, first), edits), tuple(texts))

    def found(self, columns: Sequence[ColumnArray], found: Codes, looked: Flags, tally: Tally) -> Codes:
        """The number of each row's key, with the nearest one for rows that are looked up and have none."""
        rows = np.flatnonzero(looked & (found < 0))
        if not len(rows):
            return found
        some = [column.take(from_numpy(rows)) for column in columns]
        keys = keys_of(some, len(rows))
        first = pa.array(keys.first)
        texts = some[-1].take(first).to_pylist()
        nearest = [
            self.index.nearest(text, group) for text, group in zip(texts, _others(some, first), strict=True)
        ]
        counts = np.bincount(keys.codes, minlength=len(nearest)).tolist()
        took = [
            (text, key, count)
            for text, key, count in zip(texts, nearest, counts, strict=True)
            if key is not None
        ]
        note_pairs(
            tally, [one[0] for one in took], [self.texts[one[1]] for one in took], [one[2] for one in took]
        )
        out = found.copy()
        out[rows] = np.array([-1 if key is None else key for key in nearest], np.int64)[keys.codes]
        return out


def _others(columns: Sequence[ColumnArray], rows: ColumnArray) -> list[Hashable]:
    """For each of some rows what its other columns hold."""
    others = [column.take(rows).to_pylist() for column in columns[:-1]]
    return list(zip(*others, strict=True)) if others else [()] * len(rows)
