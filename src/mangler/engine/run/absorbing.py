"""Work that a step must do on batches in their order, done in a thread of its own while others read on."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from contextvars import copy_context
from types import TracebackType
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from concurrent.futures import Future, ThreadPoolExecutor

MOST_WAITING = 2
"""Batches that wait or are worked on: more would only take memory."""


class InTurn:
    """Calls, one after the other. What each gives is taken on by the thread that adds them, in the same order.

    With `at_once` they are made as they are added, in that thread.
    """

    def __init__(self, at_once: bool) -> None:
        self._at_once = at_once
        self._pool: ThreadPoolExecutor | None = None
        self._waiting: deque[tuple[Future[float], Callable[[float], None]]] = deque()

    def add(self, call: Callable[[], float], then: Callable[[float], None]) -> None:
        """`call` gives the seconds that it took, and `then` gets them."""
        if self._at_once:
            then(call())
            return
        if self._pool is None:
            from concurrent.futures import ThreadPoolExecutor

            self._pool = ThreadPoolExecutor(1, "mangler-absorb")
        self._waiting.append((self._pool.submit(copy_context().run, call), then))
        while len(self._waiting) > MOST_WAITING:
            self._take_first()

    def finish(self) -> None:
        """Waits until all calls were made; raises what the first of them raised that failed."""
        while self._waiting:
            self._take_first()

    def _take_first(self) -> None:
        future, then = self._waiting.popleft()
        try:
            seconds = future.result()
        except BaseException:
            self._waiting.clear()  # nothing after it counts
            raise
        then(seconds)

    def __enter__(self) -> InTurn:
        return self

    def __exit__(
        self, _kind: type[BaseException] | None, error: BaseException | None, _trace: TracebackType | None
    ) -> None:
        """What went wrong with a batch before comes first, as it would without a thread."""
        try:
            if isinstance(error, Exception):
                try:
                    self.finish()
                except Exception as earlier:
                    raise earlier from None
        finally:
            self._waiting.clear()
            if self._pool is not None:
                self._pool.shutdown(wait=True, cancel_futures=True)
                self._pool = None
