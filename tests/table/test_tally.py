from __future__ import annotations

import json
from collections import Counter

import numpy as np

from mangler.table.row_notes import RowNotes
from mangler.table.tally import Tally


def test_tallies_of_batches_add_up_and_keep_the_first_examples() -> None:
    total = Tally()
    first = Tally(rows_in=2, rows_out=2, counts=Counter(cells_changed=1), found={"b": 2, "a": 1})
    second = Tally(
        rows_in=3, rows_out=1, counts=Counter(cells_changed=2, nulls_made=2), found={"b": 3, "c": 5, "d": 4}
    )
    first.histogram("parts").update({2: 5})
    second.histogram("parts").update({2: 1, 3: 4})
    second.failures = [(row, row + 1, "no number") for row in range(5)]
    total.add(first)
    total.add(second)
    assert (total.rows_in, total.rows_out, total.rows_dropped) == (5, 3, 2)
    assert total.counts == {"cells_changed": 3, "nulls_made": 2} and total.count("cells_changed") == 3
    assert total.histograms == {"parts": {2: 6, 3: 4}} and total.count("unmet") == 0
    assert total.examples == ["a", "b", "d"]
    assert total.failures == [(0, 1, "no number"), (1, 2, "no number"), (2, 3, "no number")]
    assert first.examples == ["b", "a"] and len(second.failures) == 5  # those added are as they were


def test_a_tally_is_the_same_after_it_was_written_and_read() -> None:
    tally = Tally(rows_in=9, withdrawn=2, set_aside=1, failed=1, failures=[(4, 5, "why")], found={"é": 3})
    tally.counts["unmet"] = 7
    tally.histogram("parts").update({1: 2, 3: 4})
    tally.aside = RowNotes.for_one_reason(np.array([8, 4]), "odd")
    again = Tally.from_record(json.loads(json.dumps(tally.to_record())))
    assert list(again.aside) == [(4, "odd"), (8, "odd")]
    tally.aside = again.aside = RowNotes()
    assert again == tally


def test_rows_that_went_are_a_change_too() -> None:
    assert not Tally(rows_in=2, rows_out=2).changed_anything
    assert Tally(rows_in=2, rows_out=1).changed_anything
