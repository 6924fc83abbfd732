"""What a step would make of its rows is counted before it is made."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pytest

from mangler.kernels.text.growth import bounded, refuse_beyond, refuse_repeats, spelled
from mangler.kernels.text.text_view import LARGEST_COLUMN, TooLargeError


def test_without_a_bound_only_a_column_s_own_size_counts() -> None:
    refuse_beyond(LARGEST_COLUMN, "these texts")
    with pytest.raises(TooLargeError, match="a column holds 2 GB at once"):
        refuse_beyond(LARGEST_COLUMN + 1, "these texts")


def test_a_bound_ends_with_its_block() -> None:
    with bounded(10), pytest.raises(TooLargeError, match="a step may take 10 bytes"):
        refuse_beyond(11, "these texts")
    refuse_beyond(11, "these texts")


def test_rows_made_several_times_are_counted_and_not_made() -> None:
    columns = [pa.array(["abc", "de"]), pa.array([1, 2])]
    with bounded(10**9):
        refuse_repeats(columns, np.array([3, 4]))
        with pytest.raises(TooLargeError, match="90,000,000,000 rows from 2 would take"):
            refuse_repeats(columns, np.array([45_000_000_000, 45_000_000_000]))
    with bounded(7 * (8 + 4 + 8) + 3 * 3 + 4 * 2):
        refuse_repeats(columns, np.array([3, 4]))
    with bounded(7 * (8 + 4 + 8) + 3 * 3 + 4 * 2 - 1), pytest.raises(TooLargeError):
        refuse_repeats(columns, np.array([3, 4]))


@pytest.mark.parametrize(
    ("size", "text"), [(5, "5 bytes"), (1500, "1.5 KB"), (3_000_000, "3.0 MB"), (671 * 10**9, "671.0 GB")]
)
def test_amounts_are_spelled(size: int, text: str) -> None:
    assert spelled(size) == text
