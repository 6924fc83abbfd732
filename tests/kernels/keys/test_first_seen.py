"""Keys seen before, compared with a dictionary."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.keys.first_seen import NONE, FirstSeenIndex

KEYS = st.lists(st.tuples(st.none() | st.text("ab", max_size=2), st.integers(0, 2)), max_size=40)


def first_row_of(seen: FirstSeenIndex, keys: list[tuple[str | None, int]], first_row: int) -> list[int]:
    columns = [pa.array([a for a, _ in keys], pa.string()), pa.array([b for _, b in keys], pa.int64())]
    own = FirstSeenIndex.of(columns, np.arange(first_row, first_row + len(keys)))
    found: list[int] = seen.first_row_of(own).tolist()
    seen.extend(own)
    return found


@given(KEYS, st.lists(st.integers(0, 40), max_size=4))
def test_every_later_row_of_a_key_knows_the_first(keys, cuts):
    edges = [0, *sorted(min(cut, len(keys)) for cut in cuts), len(keys)]
    seen, found = FirstSeenIndex(), []
    for start, end in zip(edges, edges[1:], strict=False):  # noqa: RUF007
        found += first_row_of(seen, keys[start:end], start + 1)
    first: dict[tuple[str | None, int], int] = {}
    expected = []
    for row, key in enumerate(keys, 1):
        expected.append(first.get(key, NONE))
        first.setdefault(key, row)
    assert found == expected


def test_long_keys_that_differ_in_the_middle_only_are_different():
    texts = [f"{'x' * 80}{middle}{'y' * 80}" for middle in ("1", "2", "1")]
    own = FirstSeenIndex.of([pa.array(texts)], np.array([1, 2, 3]))
    assert FirstSeenIndex().first_row_of(own).tolist() == [NONE, NONE, 1]


def test_many_keys_are_kept_in_few_runs():
    seen = FirstSeenIndex()
    for start in range(0, 20_000, 100):
        keys = [(None, n) for n in range(start, start + 100)]
        assert set(first_row_of(seen, keys, start + 1)) == {NONE}
    assert len(seen.runs) < 12
    assert first_row_of(seen, [(None, 7), (None, 19_999)], 30_000) == [8, 20_000]
