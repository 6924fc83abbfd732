"""Room for rows that a step must gather: a bound on memory, and files for what goes beyond it.

The files have no names: they are gone with the process, however it ends.
"""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from typing import Any

import pyarrow as pa

from mangler.language.mistake import Refusal, file_trouble, reason

LARGEST_IN_MEMORY = 3 << 29
"""Bytes of rows that are kept together at most: a text column of Arrow holds 2 GB."""
DEFAULT_BUDGET = 1 << 30


class Room:
    """`budget` is the memory, in bytes, that one gathering step may take for its rows and its work on them."""

    def __init__(self, budget: int = DEFAULT_BUDGET) -> None:
        self.budget = budget
        self._spools: list[Spool] = []

    @property
    def held(self) -> int:
        """Bytes of rows that may be held before they go to a file: the work on them takes as much again."""
        return min(self.budget // 3, LARGEST_IN_MEMORY)

    @property
    def piece(self) -> int:
        """Bytes that are written to a file at a time."""
        return min(1 << 20, self.budget // 256)

    def spool(self) -> Spool:
        spool = Spool()
        self._spools.append(spool)
        return spool

    def close(self) -> None:
        """Gives all files back."""
        for spool in self._spools:
            spool.close()
        self._spools.clear()


class Spool:
    """Record batches in a file, in the order in which they were written; any of them can be read again."""

    def __init__(self) -> None:
        try:
            self._file: Any = tempfile.TemporaryFile(prefix="mangler-")  # noqa: SIM115
        except OSError as error:
            raise _no_room(error) from None
        self._places: list[int] = []
        self.rows = 0
        self.size = 0

    def __len__(self) -> int:
        return len(self._places)

    def write(self, batch: pa.RecordBatch) -> None:
        try:
            self._places.append(self._file.seek(0, 2))
            with pa.ipc.new_stream(pa.PythonFile(self._file, "w"), batch.schema) as writer:
                writer.write_batch(batch)
            self._file.flush()
        except OSError as error:
            raise _no_room(error) from None
        self.rows += batch.num_rows
        self.size += batch.nbytes

    def read(self, index: int) -> pa.RecordBatch:
        try:
            self._file.seek(self._places[index])
            with pa.ipc.open_stream(pa.PythonFile(self._file, "r")) as reader:
                return reader.read_next_batch()
        except OSError as error:
            raise _no_room(error) from None

    def __iter__(self) -> Iterator[pa.RecordBatch]:
        return (self.read(index) for index in range(len(self)))

    def close(self) -> None:
        self._file.close()


def _no_room(error: OSError) -> Refusal:
    return file_trouble(
        f"the temporary file for rows that do not fit into memory makes trouble: {reason(error)}",
        f"It stands in {tempfile.gettempdir()}. TMPDIR names another folder; --memory allows more memory.",
    )
