"""Settings of the C library's memory for a program that works on blocks of columns."""

from __future__ import annotations

import contextlib
from functools import cache

M_TRIM_THRESHOLD, M_MMAP_THRESHOLD = -1, -3
KEPT = 64 << 20


@cache
def keep_freed_memory() -> None:
    """Lets freed blocks be used again instead of going back to the system.

    Without it glibc maps every larger array anew, and each pass through one costs page faults: a fifth of a run.
    Other C libraries have no such setting, and need none.
    """
    import ctypes

    with contextlib.suppress(OSError, AttributeError):
        library = ctypes.CDLL(None)
        library.mallopt(M_MMAP_THRESHOLD, KEPT)
        library.mallopt(M_TRIM_THRESHOLD, KEPT)
