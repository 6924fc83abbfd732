from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.text import bits

FLAGS = st.lists(st.booleans(), max_size=300).map(lambda flags: np.array(flags, np.bool_))


@given(FLAGS)
def test_positions_and_counts(flags: np.ndarray) -> None:  # type: ignore[type-arg]
    words = bits.pack(flags)
    assert bits.positions(words).tolist() == np.flatnonzero(flags).tolist()
    assert bits.count(words) == int(flags.sum())
    at = np.arange(len(flags) + 1)
    assert bits.counts_before(words, at).tolist() == [int(flags[:i].sum()) for i in at]


@given(FLAGS)
def test_odd_so_far_over_word_borders(flags: np.ndarray) -> None:  # type: ignore[type-arg]
    at = np.arange(len(flags))
    odd = bits.are_set(bits.odd_so_far(bits.pack(flags)), at)
    assert odd.tolist() == [bool(flags[: i + 1].sum() % 2) for i in at]


@given(FLAGS)
def test_neighbours_over_word_borders(flags: np.ndarray) -> None:  # type: ignore[type-arg]
    at = np.arange(len(flags))
    words = bits.pack(flags)
    assert bits.are_set(bits.after(words), at).tolist() == [bool(i and flags[i - 1]) for i in at]
    assert bits.are_set(bits.before(words), at).tolist() == [
        bool(i + 1 < len(flags) and flags[i + 1]) for i in at
    ]


@given(FLAGS, st.integers(0, 300))
def test_the_last_one_before_a_place(flags: np.ndarray, end: int) -> None:  # type: ignore[type-arg]
    end = min(end, len(flags))
    set_before = np.flatnonzero(flags[:end])
    assert bits.last(bits.pack(flags), end) == (int(set_before[-1]) if len(set_before) else -1)


@given(st.lists(st.booleans(), max_size=400), st.integers(0, 450))
def test_bits_up_to_a_position(flags: list[bool], end: int) -> None:
    assert bits.count_up_to(bits.pack(np.array(flags, np.bool_)), end) == sum(flags[:end])


def test_the_last_bit_is_found_far_back() -> None:
    """Words are looked through from the back, some at a time."""
    words = np.zeros(3 * bits.NEAR + 5, np.uint64)
    assert bits.last(words, 64 * len(words)) == -1
    for at in (0, 64 * bits.NEAR - 1, 64 * bits.NEAR, 64 * (2 * bits.NEAR + 5)):
        words[at >> 6] |= np.uint64(1) << np.uint64(at & 63)
        assert bits.last(words, 64 * len(words)) == at
        assert bits.last(words, at) < at
