"""A digest of content that costs less than to read it, by which an extract is known again.

Stretches of 8 KB become two sums of 64 bits each, of products of neighbouring words to which fixed keys were added:
the function NH of UMAC (RFC 4418). Two unlike stretches have both sums alike by a chance of 2 to the power of -64.
BLAKE2b digests these sums, and what is left of the content. It is not meant to withstand one who seeks equal digests.
"""

from __future__ import annotations

from functools import cache
from hashlib import blake2b

import numpy as np
import numpy.typing as npt

from mangler.kernels import compiled

MARK = "nh:"
"""In front of each digest: those of earlier versions have nothing there."""
STRETCH = 2048
"""Words of 4 bytes."""
SHIFT = 4
"""The keys of the second sum are so many words further on."""
BYTES = STRETCH * 4
Sums = npt.NDArray[np.uint64]


class ContentDigest:
    """The digest of bytes that come in pieces; how they are divided makes no difference."""

    def __init__(self) -> None:
        self._whole = blake2b(digest_size=16, person=b"content")
        self._rest = b""

    def update(self, piece: bytes | memoryview) -> None:
        if self._rest:
            if len(self._rest) + len(piece) < BYTES:
                self._rest += bytes(piece)
                return
            start = BYTES - len(self._rest)
            self._add(self._rest + bytes(piece[:start]))
        else:
            start = 0
        end = start + (len(piece) - start) // BYTES * BYTES
        if end > start:
            self._add(memoryview(piece)[start:end])
        self._rest = bytes(piece[end:])

    def update_with_sums(self, sums: bytes, rest: bytes) -> None:
        """Adds bytes that are whole stretches, of which these are the `products`, and the rest at the end."""
        assert not self._rest
        self._whole.update(sums)
        self._rest = rest

    def hexdigest(self) -> str:
        """With its mark. More may be added afterwards."""
        whole = self._whole.copy()
        whole.update(len(self._rest).to_bytes(2, "little") + self._rest)
        return MARK + whole.hexdigest()

    def _add(self, stretches: bytes | memoryview) -> None:
        self._whole.update(products(stretches).tobytes())


def products(content: bytes | memoryview) -> Sums:
    """The two sums of each stretch."""
    keys = _keys()
    if compiled.sums is not None:
        found: Sums = compiled.sums.products(content, keys, STRETCH, SHIFT)
        return found
    words = np.frombuffer(content, np.dtype("<u4")).reshape(-1, STRETCH)
    sums = np.empty((len(words), 2), np.uint64)
    for number in range(2):
        own = keys[number * SHIFT : number * SHIFT + STRETCH]
        added = words + own
        sums[:, number] = (added[:, ::2].astype(np.uint64) * added[:, 1::2]).sum(axis=1, dtype=np.uint64)
    return sums


@cache
def _keys() -> npt.NDArray[np.uint32]:
    """Fixed numbers that look like chance, the same on every machine."""
    pieces = [
        blake2b(number.to_bytes(4, "little"), person=b"keys").digest() for number in range(BYTES // 64 + 1)
    ]
    return np.frombuffer(b"".join(pieces), np.dtype("<u4"))[: STRETCH + SHIFT]
