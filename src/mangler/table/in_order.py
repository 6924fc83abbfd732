"""Work on several items at once, with the outcomes in order."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from contextvars import copy_context
from itertools import chain, islice
from typing import TYPE_CHECKING, TypeVar

if TYPE_CHECKING:
    from concurrent.futures import Future

WORKERS = 2
Item = TypeVar("Item")
Outcome = TypeVar("Outcome")


class AbandonedError(Exception):
    """An earlier item failed, so this one will never have its turn."""


def in_order(items: Iterable[Item], work: Callable[[Item], Outcome], workers: int) -> Iterator[Outcome]:
    """The outcomes of all items, in their order.

    The calling thread takes items and hands outcomes on, while so many workers work; no more items than workers and
    two are under way, which bounds memory, and lets an item take longer than others, as the first does, without that
    somebody waits. A single item is worked on here, without any thread.
    """
    source = iter(items)
    if workers == 1:
        yield from map(work, source)
        return
    ready = list(islice(source, 2))
    if len(ready) < 2:
        yield from map(work, ready)
        return
    from concurrent.futures import ThreadPoolExecutor

    pool = ThreadPoolExecutor(workers, "mangler")
    pending: deque[Future[Outcome]] = deque()
    try:
        for item in chain(ready, source):
            pending.append(pool.submit(copy_context().run, work, item))
            if len(pending) > workers + 1:
                yield _first_result(pending)
        while pending:
            yield _first_result(pending)
    finally:
        pool.shutdown(wait=True, cancel_futures=True)


def _first_result(pending: deque[Future[Outcome]]) -> Outcome:
    """The next outcome in order. For an abandoned item, what went wrong with the item that failed is raised."""
    try:
        return pending.popleft().result()
    except AbandonedError:
        for later in pending:
            error = later.exception()
            if error is not None and not isinstance(error, AbandonedError):
                raise error from None
        raise
