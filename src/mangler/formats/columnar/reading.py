"""Files of columns as partitions: record batches of a bounded size, in order."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pyarrow as pa

from mangler.formats.aside import ASIDE_COLUMNS
from mangler.formats.location import Location
from mangler.formats.typed_source import TypedPartition, is_aside
from mangler.language.mistake import file_trouble

LARGEST_PARTITION = 32 << 20
"""Bytes of columns that are worked on at a time."""
FEWEST_ROWS, MOST_ROWS = 256, 1 << 17
PLAIN_WIDTH = 16
"""Bytes per cell that are reckoned with where nothing is known."""


def rows_at_once(rows: int, size: int) -> int:
    """How many rows make a partition of a table of so many rows and bytes."""
    per_row = max(1, size // max(1, rows))
    return int(min(MOST_ROWS, max(FEWEST_ROWS, LARGEST_PARTITION // per_row)))


def partitions_of(
    batches: Iterator[Any],
    location: Location,
    total: int,
    aside: bool,
    damaged: Callable[[Exception], Exception],
) -> Iterator[TypedPartition]:
    """Partitions of record batches. `total` is how many rows there are, for progress; 0 where it is not known."""
    first, index = 1, 0
    current = _next(batches, damaged)
    while current is not None:
        following = _next(batches, damaged)
        records = without_aside(current) if aside else current
        last = first + records.num_rows - 1
        done = location.size * last // total if total else 0
        yield TypedPartition(index, first, records, done, following is None, location.name)
        first, index, current = last + 1, index + 1, following


def _next(batches: Iterator[Any], damaged: Callable[[Exception], Exception]) -> Any:
    """The next batch that holds rows; None at the end."""
    try:
        return next((one for one in batches if one.num_rows), None)
    except (pa.ArrowException, OSError, ValueError, NotImplementedError) as error:
        raise damaged(error) from None


def without_aside(records: Any) -> Any:
    """The columns of the table itself, in a file of rows set aside."""
    count = len(ASIDE_COLUMNS)
    return pa.RecordBatch.from_arrays(records.columns[count:], names=records.schema.names[count:])


def own_schema(schema: Any) -> tuple[Any, bool]:
    """The schema of the table itself, and whether its rows were set aside."""
    aside = is_aside(schema.names)
    return (pa.schema(list(schema)[len(ASIDE_COLUMNS) :]) if aside else schema), aside


def damage(location: Location, format_name: str) -> Callable[[Exception], Exception]:
    """What is raised for a file that cannot be read."""

    def damaged(error: Exception) -> Exception:
        why = str(error).splitlines()[0].rstrip(".") if str(error) else type(error).__name__
        return file_trouble(
            "file-damaged",
            f"{location.name} cannot be read as {format_name}: {why[:300]}",
            "It may be damaged, or not written to its end.",
        )

    return damaged
