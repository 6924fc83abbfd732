"""Keys that a file does not have, and those of it that they are near to."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANKS
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.keys.lookup import near_forms
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.values.format_values import format_values

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
