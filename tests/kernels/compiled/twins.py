"""A compiled kernel beside its NumPy twin: hostile bytes for both, and a switch that takes the compiled one away."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from unittest import mock

import pytest
from hypothesis import strategies as st

from mangler.kernels import compiled

built = pytest.mark.skipif(
    compiled.records is None, reason="the compiled kernels are not built, or not chosen"
)


@contextmanager
def by_numpy() -> Iterator[None]:
    """Inside, the NumPy kernels are in use."""
    with mock.patch.multiple(compiled, **dict.fromkeys(compiled.MODULES)):
        yield


def hostile(alphabet: bytes, most: int = 300) -> st.SearchStrategy[bytes]:
    """Bytes that often are ones with a meaning, in stretches longer than the words that kernels look at."""
    piece = st.one_of(
        st.sampled_from([bytes([byte]) for byte in alphabet]),
        st.sampled_from([bytes([byte]) for byte in alphabet]),
        st.binary(max_size=3),
        st.integers(1, 70).map(lambda size: b"x" * size),
    )
    return st.lists(piece, max_size=most // 4).map(b"".join)
