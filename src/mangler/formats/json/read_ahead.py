"""Reads the next pieces of plain objects in threads, while the one before is put away."""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

from mangler.formats.json.flat import flat_columns
from mangler.formats.json.splitting import Piece

MOST_THREADS = 4
MOST_VAIN = 8
"""So many pieces one after the other that had to be read the exact way: then the others are too."""


class ReadAhead:
    """`schema` is what plain objects look like here, as soon as it is known; None where the objects are not plain."""

    def __init__(self, ahead: int | None) -> None:
        threads = min(MOST_THREADS, os.cpu_count() or 1)
        self.schema: Any | None = None
        self._ahead = 2 * threads if ahead is None else ahead
        self._pool = ThreadPoolExecutor(threads, "mangler-json")
        self._vain = 0

    def __enter__(self) -> ReadAhead:
        return self

    def __exit__(self, *_: object) -> None:
        self._pool.shutdown(cancel_futures=True)

    def read(self, pieces: Iterable[Piece]) -> Iterator[tuple[Piece, Any | None]]:
        """Each piece in its order, with its columns where it was read so."""
        waiting: deque[tuple[Piece, Future[Any] | None]] = deque()
        for piece in pieces:
            waiting.append((piece, self._begun(piece)))
            while waiting and (waiting[0][1] is None or len(waiting) > self._ahead):
                yield self._ended(*waiting.popleft())
        while waiting:
            yield self._ended(*waiting.popleft())

    def _begun(self, piece: Piece) -> Future[Any] | None:
        if self.schema is None or piece.is_cut_off or self._vain >= MOST_VAIN:
            return None
        return self._pool.submit(flat_columns, piece, self.schema)

    def _ended(self, piece: Piece, future: Future[Any] | None) -> tuple[Piece, Any | None]:
        record = None if future is None else future.result()
        if future is not None:
            self._vain = 0 if record is not None else self._vain + 1
        return piece, record
