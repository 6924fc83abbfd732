"""Notes of rows set aside: the same rows and reasons however they are put together."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from mangler.table.row_notes import RowNotes, merged
from mangler.table.tally import MOST_EXAMPLES, Tally

NOTED = st.dictionaries(
    st.integers(1, 40), st.sampled_from(["too few", "too many", "no number"]), max_size=20
)


def notes_of(noted: dict[int, str]) -> RowNotes:
    rows = sorted(noted)
    reasons = sorted(set(noted.values()))
    codes = np.array([reasons.index(noted[row]) for row in rows], np.int64)
    return RowNotes(np.array(rows, np.int64), codes, tuple(reasons))


@given(NOTED, st.integers(1, 4), st.integers(0, 20))
def test_divided_and_merged_they_are_the_same(noted: dict[int, str], parts: int, count: int) -> None:
    whole = notes_of(noted)
    divided = [
        notes_of({row: why for row, why in noted.items() if row % parts == part}) for part in range(parts)
    ]
    assert list(merged(divided)) == list(whole) == sorted(noted.items())
    assert list(whole.first(count)) == sorted(noted.items())[:count]
    even = [one for one in sorted(noted.items()) if one[0] % 2 == 0]
    assert list(whole.only(whole.rows % 2 == 0)) == even


def test_one_reason_for_rows_in_any_order() -> None:
    notes = RowNotes.for_one_reason(np.array([7, 3, 7]), "no")
    assert list(notes) == [(3, "no"), (7, "no")] and len(notes) == 2


def test_a_tally_of_many_batches_keeps_a_few_notes_and_counts_all() -> None:
    tally = Tally()
    for start in range(0, 1000, 10):
        rows = np.arange(start, start + 10)
        tally.add(Tally(set_aside=10, aside=RowNotes.for_one_reason(rows, f"from {start}")))
    assert tally.set_aside == 1000 and len(tally.aside) == MOST_EXAMPLES
    assert next(iter(tally.aside)) == (0, "from 0") and len(tally.aside.reasons) == 1
