"""How a run is done, whatever its recipe says."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, TypeAlias

from mangler.engine.run.recording import Recorder, Watcher
from mangler.formats.contract import PARTITION_SIZE
from mangler.late_dataclass import dataclass
from mangler.table.in_order import WORKERS

GROWTH, LEAST_PARTITION = 64, 64 << 10
"""How much memory there is for each byte of a partition, and the smallest partition that is read."""
Progress: TypeAlias = Callable[[int, int], None]
"""Called with rows and bytes read so far."""


@dataclass(frozen=True)
class RunOptions:
    """How a run is done; nothing here changes what comes out, except for `rows`."""

    rows: int | None = None
    """Only this many rows of the extract are read."""
    preview: int = 0
    """So many cleaned rows are kept in the result."""
    workers: int = WORKERS
    first_steps: int | None = None
    """Only so many of the recipe's steps are done; None: all. The others see the rows of several extracts."""
    partition_size: int = PARTITION_SIZE
    memory: int | None = None
    """Bytes that steps may take which must see all rows; None: half of what the machine has."""
    progress: Progress | None = None
    strict: bool = False
    """Whether any row set aside and any warning keeps the extract from being delivered."""
    recorder: Recorder | None = None
    """Who hears of it before the output is put in its place, and after."""
    keep_aside: bool = True
    """Whether rows set aside are in the result too: then all of them are in memory."""
    workforce: Any = None
    """Those who work on pieces of the extract, a `Workforce`; None: threads of this process."""
    divides_small: bool = False
    """Whether small extracts go to the workforce too: it pays where several are worked on at once."""
    only_new: bool = False
    """Whether only rows of a table are read that were not delivered before."""
    delivered: Mapping[str, Any] | None = None
    """What was noted of the rows of it that were delivered last."""
    watcher: Watcher | None = None
    """Who sees the rows as they are read, and what deserves a warning."""

    @property
    def bytes_at_once(self) -> int:
        """Bytes of a block: with little memory it is small, so that what steps make of it has room."""
        if self.memory is None:
            return self.partition_size
        return min(self.partition_size, max(LEAST_PARTITION, self.memory // GROWTH))
