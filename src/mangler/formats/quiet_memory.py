"""Work that makes very many objects of Python's, and no circles of them, without the collector looking for circles."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock

_lock = Lock()
_depth = 0
_was_enabled = False


@contextmanager
def without_collector() -> Iterator[None]:
    """Python's collector of circles rests in all threads, until the last one is done that asked for it."""
    global _depth, _was_enabled
    with _lock:
        if not _depth:
            _was_enabled = gc.isenabled()
            gc.disable()
        _depth += 1
    try:
        yield
    finally:
        with _lock:
            _depth -= 1
            if not _depth and _was_enabled:
                gc.enable()
