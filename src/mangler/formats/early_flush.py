"""Has what is written to a file brought to the disk while more is written, so that little is left for the end."""

from __future__ import annotations

import os
from threading import Thread

STRETCH = 32 << 20
"""Bytes that are written before they are flushed: less costs more calls than it saves waiting."""


class EarlyFlush:
    """Flushes a file in a thread of its own, one flush at a time. What goes wrong there is said in the end."""

    def __init__(self, descriptor: int) -> None:
        self._descriptor = descriptor
        self._waiting = 0
        self._thread: Thread | None = None
        self._trouble: list[OSError] = []

    def note(self, count: int) -> None:
        """So many bytes more were written."""
        self._waiting += count
        if self._waiting < STRETCH or (self._thread is not None and self._thread.is_alive()):
            return
        self._waiting = 0
        try:
            own = os.dup(self._descriptor)  # the file may be closed before the disk is done
        except OSError:  # too many open files: all is flushed in the end
            return
        thread = Thread(target=self._flush, args=(own,), name="mangler-flush", daemon=True)
        try:
            thread.start()
        except RuntimeError:  # the system has no thread to give
            os.close(own)
            return
        self._thread = thread

    def _flush(self, descriptor: int) -> None:
        try:
            getattr(os, "fdatasync", os.fsync)(descriptor)  # macOS has only the second
        except OSError as error:
            self._trouble.append(error)
        finally:
            os.close(descriptor)

    def finish(self) -> None:
        """Flushes the rest. Raises what any flush met: the system says it once, and not again at the next."""
        if self._thread is not None:
            self._thread.join()
        os.fsync(self._descriptor)
        if self._trouble:
            raise self._trouble[0]
