"""A bound on what one step can make of the rows that it sees at once, asked for before memory is taken."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.fields import FieldColumn, entries_of
from mangler.kernels.text.text_view import LARGEST_COLUMN, TooLargeError, view

_BOUND: ContextVar[int | None] = ContextVar("bytes that a step may make", default=None)


@contextmanager
def bounded(size: int) -> Iterator[None]:
    """Inside, a step makes at most so many bytes of the rows that it sees at once."""
    token = _BOUND.set(size)
    try:
        yield
    finally:
        _BOUND.reset(token)


def refuse_beyond(size: int, what: str) -> None:
    """Refuses work that would make so many bytes in one column: more than Arrow or the bound allows."""
    refuse_batch_beyond(size, what)
    if size > LARGEST_COLUMN:
        raise TooLargeError(f"{what} would take {spelled(size)}, and a column holds 2 GB at once")


def refuse_batch_beyond(size: int, what: str) -> None:
    """The same for all columns together: only the bound counts."""
    bound = _BOUND.get()
    if bound is not None and size > bound:
        raise TooLargeError(
            f"{what} would take {spelled(size)}, and a step may take {spelled(bound)} at once"
        )


def refuse_repeats(columns: Sequence[ColumnArray], counts: npt.NDArray[Any]) -> None:
    """Refuses rows made several times, row i `counts[i]` times, where all columns together would be too large."""
    rows = int(counts.sum(dtype=np.int64))
    if rows <= len(counts):
        return
    size, entries = rows * 8, entries_of(columns)
    fields = [one for one in entries if isinstance(one, FieldColumn)]
    if fields:  # the bytes of a record are at least those of its fields
        of_records = int(np.dot(fields[0].read.record_sizes, counts.astype(np.int64)))
        most, bound = size + of_records + rows * 4 * len(fields), _BOUND.get()
        if bound is None or most <= bound:
            size, columns = most, [one for one in entries if not isinstance(one, FieldColumn)]
    for column in columns:
        if pa.types.is_string(column.type):
            lengths = view(column).lengths.astype(np.int64)
            size += int(np.dot(lengths, counts.astype(np.int64))) + rows * 4
        else:
            size += rows * 8
    refuse_batch_beyond(size, f"{rows:,} rows from {len(counts):,}")


def spelled(size: int) -> str:
    """An amount of memory, as `--memory` takes it."""
    for unit, amount in (("GB", 10**9), ("MB", 10**6), ("KB", 10**3)):
        if size >= amount:
            return f"{size / amount:,.1f} {unit}"
    return f"{size} bytes"
