"""Processes of this machine as a workforce."""

from __future__ import annotations

import os
import signal
import threading
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context, parent_process
from multiprocessing.connection import wait
from typing import Any

from mangler.freed_memory import keep_freed_memory
from mangler.language.mistake import file_trouble

AHEAD = 2
"""For each process so many items are given out: one is worked on, and one waits."""


class Processes:
    """So many processes, which are started when there is work. `prepare` is called first in each."""

    memory = None

    def __init__(self, count: int, prepare: Callable[[], None] | None = None) -> None:
        self.threads = count
        self._prepare = prepare
        self._pool: ProcessPoolExecutor | None = None

    def map_ordered(self, function: Callable[[Any], Any], items: Iterable[Any], /) -> Iterator[Any]:
        """The outcomes of all items in their order; only some items more are given out than are worked on."""
        if self._pool is None:
            # A fork would take over threads of Arrow that are not there.
            context = get_context("spawn")
            self._pool = ProcessPoolExecutor(self.threads, context, begin, (self._prepare,))
        waiting: deque[Future[Any]] = deque()
        try:
            for item in items:
                waiting.append(self._pool.submit(function, item))
                if len(waiting) >= AHEAD * self.threads:
                    yield waiting.popleft().result()
            while waiting:
                yield waiting.popleft().result()
        except BrokenProcessPool:
            raise file_trouble(
                "process-ended",
                "one of the processes was ended from outside",
                "Nothing is delivered. Was there too little memory? Try fewer --workers, or less --memory.",
            ) from None
        finally:
            for one in waiting:
                one.cancel()

    def close(self) -> None:
        if self._pool is not None:
            self._pool.shutdown(wait=True, cancel_futures=True)


def begin(prepare: Callable[[], None] | None) -> None:
    """The begin of a process: interrupts are for the one that started it, and it ends with that."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    if prepare is not None:
        prepare()
    threading.Thread(target=end_with_parent, daemon=True).start()
    keep_freed_memory()


def end_with_parent() -> None:
    """Nobody would hear of what is done any more; what is half done is left as by a run that was killed."""
    parent = parent_process()
    assert parent is not None
    wait([parent.sentinel])
    os._exit(1)
