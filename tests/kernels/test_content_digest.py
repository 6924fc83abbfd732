"""The digest of content: whatever the pieces, and whichever kernel sums them up."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from tests.kernels.compiled.twins import built, by_numpy

from mangler.kernels.content_digest import BYTES, ContentDigest, products

CONTENT = np.random.default_rng(5).integers(0, 256, 5 * BYTES + 77, np.uint8).tobytes()


def digest_of(*pieces: bytes) -> str:
    digest = ContentDigest()
    for piece in pieces:
        digest.update(piece)
    return digest.hexdigest()


@given(st.lists(st.integers(0, len(CONTENT)), max_size=6), st.integers(0, len(CONTENT)))
def test_it_does_not_depend_on_the_pieces(cuts: list[int], size: int) -> None:
    content = CONTENT[:size]
    places = [0, *sorted(min(cut, size) for cut in cuts), size]
    pieces = [content[start:end] for start, end in pairwise(places)]
    assert digest_of(*pieces) == digest_of(content)


def test_it_is_the_same_on_every_machine() -> None:
    """Histories are kept: a change of these is a change of what is known again."""
    assert digest_of() == "nh:dfa00421b74f7e173a3b2e480eb8eac4"
    assert digest_of(bytes(range(256)) * 100) == "nh:8f198785006e232e825dcb40d880a3d7"


@given(
    st.integers(0, len(CONTENT) - 1),
    st.integers(1, 255),
    st.integers(0, len(CONTENT) - 1),
    st.integers(0, 255),
)
def test_other_content_has_another_digest(one: int, by: int, other: int, by_as_much: int) -> None:
    """One byte or two that differ, wherever; two stretches that change places; a byte more."""
    changed = bytearray(CONTENT)
    changed[one] ^= by
    changed[other] ^= by_as_much
    assert (digest_of(bytes(changed)) == digest_of(CONTENT)) == (bytes(changed) == CONTENT)
    assert digest_of(CONTENT[BYTES : 2 * BYTES], CONTENT[:BYTES]) != digest_of(CONTENT[: 2 * BYTES])
    assert digest_of(CONTENT + b"\0") != digest_of(CONTENT)


@built
@given(st.integers(0, 3), st.sampled_from([b"", b"\xff" * BYTES, CONTENT]))
def test_sums_are_those_of_numpy(offset: int, content: bytes) -> None:
    whole = content[offset:][: len(content[offset:]) // BYTES * BYTES]
    found = products(memoryview(b"x" * offset + whole)[offset:])
    with by_numpy():
        assert found.tolist() == products(whole).tolist()
