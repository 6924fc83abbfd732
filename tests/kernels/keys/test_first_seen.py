"""Keys seen before, compared with a dictionary."""

from __future__ import annotations

import importlib.util
import sys
from concurrent.futures import ThreadPoolExecutor
from contextlib import nullcontext
from threading import Barrier

import numpy as np
import pyarrow as pa
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import layouts
from tests.kernels.compiled.twins import built, by_numpy

from mangler.kernels.keys import hashed_keys
from mangler.kernels.keys.first_seen import NONE, FirstSeenIndex
from mangler.kernels.keys.seen_keys import NumberedKeys, SeenInRuns

CELLS = st.none() | st.text("aé", max_size=3) | st.sampled_from(["x" * n for n in (7, 8, 9, 15, 16, 17, 33)])
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


@built
@given(st.lists(st.lists(st.tuples(CELLS, st.integers(0, 3)), max_size=12), max_size=5))
def test_keys_are_numbered_in_the_order_in_which_they_come(batches):
    """Whatever comes together. A null is not an empty text, and what is in one cell not what is in two."""
    numbered, known = NumberedKeys(), {}
    for keys in batches:
        before = len(known)
        expected = [known.setdefault(key, len(known)) for key in keys]
        numbers, heads = numbered.numbers(
            [pa.array([a for a, _ in keys], pa.string()), pa.array([b for _, b in keys], pa.int8())],
            len(keys),
        )
        assert numbers.tolist() == expected
        assert heads.tolist() == [expected.index(number) for number in range(before, len(known))]
    assert numbered.count == len(known)


@built
def test_a_table_of_numbers_grows_where_it_is_full():
    """At two thirds of its places, and where keys have no more room, in the middle of a batch too."""
    rng = np.random.default_rng(7)
    numbered, known = NumberedKeys(), {}
    for size in (1, 2729, 2730, 2731, 50_000, 3, 8190):
        keys = rng.integers(0, 40_000, size)
        expected = [known.setdefault(key, len(known)) for key in keys.tolist()]
        numbers, heads = numbered.numbers([pa.array(keys)], size)
        assert numbers.tolist() == expected
        assert len(heads) == 0 or keys[heads].tolist() == list(known)[-len(heads) :]
        assert numbered.size < 150 * len(known) + 200_000


@built
def test_threads_that_begin_together_hash_alike():
    """Also where none of them has hashed before: keys of different blocks are compared with each other."""
    for _ in range(30):
        spec = importlib.util.spec_from_file_location("hashed_keys_anew", hashed_keys.__file__)
        assert spec is not None and spec.loader is not None
        anew = importlib.util.module_from_spec(spec)
        sys.modules[spec.name] = anew
        spec.loader.exec_module(anew)
        together = Barrier(4)

        def hashed(_number, anew=anew, together=together):
            together.wait()
            return anew.hashes_of([pa.array(["kiln"])], 1)

        with ThreadPoolExecutor(4) as pool:
            assert len({(int(first[0]), int(second[0])) for first, second in pool.map(hashed, range(4))}) == 1


def test_long_keys_that_differ_in_the_middle_only_are_different():
    texts = [f"{'x' * 80}{middle}{'y' * 80}" for middle in ("1", "2", "1")]
    own = FirstSeenIndex.of([pa.array(texts)], np.array([1, 2, 3]))
    assert FirstSeenIndex().first_row_of(own).tolist() == [NONE, NONE, 1]


def many_keys() -> FirstSeenIndex:
    """20,000 keys, which came a hundred at a time."""
    seen = FirstSeenIndex()
    for start in range(0, 20_000, 100):
        keys = [(None, n) for n in range(start, start + 100)]
        assert set(first_row_of(seen, keys, start + 1)) == {NONE}
    assert first_row_of(seen, [(None, 7), (None, 19_999)], 30_000) == [8, 20_000]
    return seen


def test_many_keys_are_kept_in_few_runs_or_in_a_table_that_is_not_much_larger():
    assert many_keys().size <= 20_000 * 72
    with by_numpy():
        runs = many_keys().seen
        assert isinstance(runs, SeenInRuns) and len(runs.runs) < 12


def test_rows_that_were_summarised_apart_are_added_with_their_first_rows():
    """The earlier row stays that of a key that both runs of rows have."""
    for kernels in (nullcontext, by_numpy):
        with kernels():
            seen, later = FirstSeenIndex(), FirstSeenIndex()
            first_row_of(seen, [("a", 1), ("b", 1)], 1)
            first_row_of(later, [("b", 1), ("c", 1)], 3)
            first_row_of(later, [("c", 1), (None, 1)], 5)
            seen.extend(later)
            keys = [("a", 1), ("b", 1), ("c", 1), (None, 1), ("", 1)]
            assert first_row_of(seen, keys, 7) == [1, 2, 4, 6, NONE]


@built
@settings(max_examples=400)
@given(st.lists(CELLS, min_size=1, max_size=25), st.data())
def test_rows_are_alike_as_by_numpy_whatever_their_cells_are(cells, data):
    """Two columns, as slices and with bytes under their nulls; cells that are longer than a word, and cut anywhere."""
    other = data.draw(st.lists(CELLS, min_size=len(cells), max_size=len(cells)))
    rows = np.arange(1, len(cells) + 1)
    for one, two in zip(layouts(cells), layouts(other), strict=True):
        found = FirstSeenIndex().first_row_of(FirstSeenIndex.of([one, two], rows))
        with by_numpy():
            assert (
                found.tolist() == FirstSeenIndex().first_row_of(FirstSeenIndex.of([one, two], rows)).tolist()
            )
        pairs = list(zip(cells, other, strict=True))
        assert found.tolist() == [
            first + 1 if (first := pairs.index(pair)) < place else NONE for place, pair in enumerate(pairs)
        ]


@built
def test_cells_that_share_their_bytes_in_another_division_are_not_alike():
    """Neither where a cell ends, nor that it is null, nor zeros behind it are lost in the hash."""
    pairs = [("ab", "c"), ("a", "bc"), ("abc", ""), ("abc", None), (None, "abc"), ("abc\0", ""), ("", "abc")]
    columns = [pa.array([pair[side] for pair in pairs], pa.string()) for side in range(2)]
    own = FirstSeenIndex.of(columns, np.arange(1, len(pairs) + 1))
    assert FirstSeenIndex().first_row_of(own).tolist() == [NONE] * len(pairs)
