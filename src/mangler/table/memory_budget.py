"""Room for rows that a step must gather: a bound on memory, and files for what goes beyond it.

The files lose their names as soon as they are open: they are gone with the process, however it ends.
"""

from __future__ import annotations

import os
import tempfile
from pathlib import Path
from typing import Any

import pyarrow as pa

from mangler.language.mistake import Refusal, file_trouble, reason

LARGEST_IN_MEMORY = 3 << 29
"""Bytes of rows that are kept together at most: a text column of Arrow holds 2 GB."""
DEFAULT_BUDGET = 1 << 30


class MemoryBudget:
    """`total` is the memory, in bytes, that one gathering step may take for its rows and its work on them.

    It may work in so many `threads`.
    """

    def __init__(self, total: int = DEFAULT_BUDGET, threads: int = 1) -> None:
        self.total, self.threads = total, threads
        self._files: list[SpoolFile] = []

    @property
    def memory_limit(self) -> int:
        """Bytes of rows that may be held before they go to a file: the work on them takes as much again."""
        return min(self.total // 3, LARGEST_IN_MEMORY)

    @property
    def unjoined_limit(self) -> int:
        """The same of rows that stay in their batches, and of which no column is larger than one may be."""
        return self.total // 3

    @property
    def spill_chunk(self) -> int:
        """Bytes that are written to a file at a time."""
        return min(1 << 20, self.total // 256)

    def share(self, parts: int) -> MemoryBudget:
        """Room for one of so many stores that are filled side by side; its files are given back with this room's."""
        return self._with(self.total // parts)

    def without(self, taken: int) -> MemoryBudget:
        """The room that is left beside so many bytes, at least half; its files are given back with this room's."""
        return self._with(max(self.total - taken, self.total // 2))

    def _with(self, total: int) -> MemoryBudget:
        room = MemoryBudget(total, self.threads)
        room._files = self._files
        return room

    def file(self) -> SpoolFile:
        """A file for rows; many stores can share one, so that a process does not run out of open files."""
        file = SpoolFile()
        self._files.append(file)
        return file

    def close(self) -> None:
        """Gives all files back."""
        for file in self._files:
            file.close()
        self._files.clear()


class SpoolFile:
    """Record batches in a file; each can be read again by its place."""

    def __init__(self) -> None:
        try:
            handle, path = tempfile.mkstemp(prefix="mangler-")
            os.close(handle)
            try:
                self._out: Any = pa.OSFile(path, "wb")
                self._in: Any = pa.OSFile(path, "rb")
            finally:
                Path(path).unlink()  # its content stays as long as it is open
        except OSError as error:
            raise _no_room(error) from None

    def write(self, batch: pa.RecordBatch) -> int:
        """Adds a batch, and gives its place."""
        try:
            offset = int(self._out.tell())
            with pa.ipc.new_stream(self._out, batch.schema) as writer:
                writer.write_batch(batch)
        except OSError as error:
            raise _no_room(error) from None
        return offset

    def read(self, offset: int) -> pa.RecordBatch:
        try:
            self._in.seek(offset)
            with pa.ipc.open_stream(self._in) as reader:
                return reader.read_next_batch()
        except OSError as error:
            raise _no_room(error) from None

    def close(self) -> None:
        self._out.close()
        self._in.close()


def _no_room(error: OSError) -> Refusal:
    # Arrow wraps what the system says in a sentence of its own; the number is the system's.
    message = os.strerror(error.errno).lower() if error.errno else reason(error)
    return file_trouble(
        "no-temporary-file",
        f"the temporary file for rows that do not fit into memory makes trouble: {message}",
        f"It is in {tempfile.gettempdir()}. TMPDIR names another folder; --memory allows more memory.",
    )
