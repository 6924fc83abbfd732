"""The same work on several columns at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextvars import copy_context
from typing import TypeVar

Item = TypeVar("Item")
Outcome = TypeVar("Outcome")
THREADS = 2
LEAST = 1 << 17
"""Rows below which starting threads costs more than they bring."""


def side_by_side(work: Callable[[Item], Outcome], items: Sequence[Item], rows: int) -> list[Outcome]:
    """The outcome of each item, in their order; where columns have many rows, in several threads."""
    if len(items) < 2 or rows < LEAST:
        return list(map(work, items))
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(THREADS, "mangler-columns") as pool:
        started = [pool.submit(copy_context().run, work, item) for item in items]
        return [one.result() for one in started]
