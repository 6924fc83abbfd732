"""What a step has gathered, as bytes: so that one process can gather some rows and another one all that was gathered.

A state is a sequence of records (JSON) and sections of batches (Arrow IPC streams), read in the order of writing.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from typing import IO, Any

import pyarrow as pa

from mangler.table.batch import Batch
from mangler.table.packing import MixedOrigin, packed, unpacked

Record = dict[str, Any]


class StateWriter:
    """Writes a state into a file that is open for writing bytes."""

    def __init__(self, file: IO[bytes]) -> None:
        self._file = file

    def record(self, values: Record) -> None:
        """Writes names with values that JSON has."""
        self._line(values)

    def batches(self, batches: Iterable[Batch]) -> None:
        """Writes batches of one schema, none as well; they are asked for one at a time."""
        writer: pa.ipc.RecordBatchStreamWriter | None = None
        for batch in batches:
            record = packed(batch)
            if writer is None:
                self._line({"file": batch.origin.file})
                writer = pa.ipc.new_stream(self._file, record.schema)
            writer.write_batch(record)
        if writer is None:
            self._line({})
        else:
            writer.close()

    def _line(self, values: Record) -> None:
        self._file.write(json.dumps(values).encode() + b"\n")


class StateReader:
    """Reads a state from a file that is open for reading bytes."""

    def __init__(self, file: IO[bytes]) -> None:
        self._file = file

    def record(self) -> Record:
        values: Record = json.loads(self._file.readline())
        return values

    def batches(self) -> Iterator[Batch]:
        """The batches of the next section. All of them must be taken before anything else is read."""
        head = self.record()
        if not head:
            return
        origin = MixedOrigin(head["file"])
        with pa.ipc.open_stream(self._file) as reader:
            for record in reader:
                yield unpacked(record, origin)
