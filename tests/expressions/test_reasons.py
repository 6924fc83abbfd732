"""Reasons made for many rows at once are those made one by one."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.expressions.reasons import ByCell, ByDistinct, Named, Reason, reason_of, reasons_of

CELLS = ["tbc", "n/a", "", "tbc", "Zoë", "x" * 40]


@given(st.lists(st.integers(0, len(CELLS) - 1), max_size=12, unique=True))
def test_at_once_and_one_by_one(places: list[int]) -> None:
    array = pa.array(CELLS)
    codes = np.array([5, 4, 3, 2, 1, 0])
    by_cell = ByCell(array, lambda text: f'"{text}" is not an integer')
    reasons: list[Reason] = [
        "always the same",
        by_cell,
        ByDistinct(by_cell, codes),
        Named("peak_c", ByDistinct("no", codes)),
        lambda index: f"row {index}",
    ]
    for reason in reasons:
        said, which = reasons_of(reason, np.array(places, np.intp))
        assert [said[code] for code in which.tolist()] == [reason_of(reason, span) for span in places]


def test_each_different_cell_makes_one_reason() -> None:
    said, _ = reasons_of(ByCell(pa.array(["tbc"] * 1000), lambda text: f"{text}!"), np.arange(1000))
    assert said == ["tbc!"]
