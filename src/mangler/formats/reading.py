"""The one loop over the partitions of an extract."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import TypeVar

from mangler.formats.contract import Partition, Source
from mangler.table.in_order import in_order

Outcome = TypeVar("Outcome")


def read_partitions(
    source: Source,
    work: Callable[[Partition], Outcome],
    workers: int = 1,
    rows: int | None = None,
    progress: Callable[[int, int], None] | None = None,
) -> Iterator[Outcome]:
    """The outcomes of the work on each partition of a source, in order.

    `work` is called by so many threads at once; with one worker, in the calling thread, one partition at a time, and
    no partition is read before its outcome is asked for. `rows`: partitions behind this row are not read. `progress`
    is called with the rows and bytes read so far.
    """

    def done(partition: Partition) -> tuple[int, int, Outcome]:
        last_row = partition.first_row + partition.row_count - 1
        return last_row, partition.bytes_read, work(partition)

    for last_row, bytes_read, outcome in in_order(_until_row(source.partitions(), rows), done, workers):
        if progress:
            progress(last_row, bytes_read)
        yield outcome


def _until_row(partitions: Iterable[Partition], rows: int | None) -> Iterator[Partition]:
    """The partitions that hold the first rows."""
    for partition in partitions:
        yield partition
        if rows is not None and partition.first_row + partition.row_count > rows:
            return
