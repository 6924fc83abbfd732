"""Where the cleaned rows go: a file or pipe of delimited text, nowhere, or memory."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Protocol

import pyarrow as pa

from mangler.formats.delimited.extract import Extract
from mangler.formats.delimited.writer import layout_for, render_batch, render_header
from mangler.formats.delivery import Delivery, NoDelivery, deliver_to
from mangler.kernels.rendering import Layout
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings


class Destination(Protocol):
    def open(self, extract: Extract, schema: Schema, settings: WriteSettings) -> None: ...

    def prepare(self, batch: Batch) -> Any:
        """Called from several threads at once; what it gives is handed to `take` in the order of the rows."""
        ...

    def take(self, prepared: Any) -> None: ...

    def finish(self, extract: Extract) -> None:
        """All rows are there."""
        ...

    def commit(self) -> None: ...

    def discard(self) -> None: ...


class DelimitedOutput:
    """Delimited text to a path; to standard output for None; nowhere when it rehearses."""

    def __init__(self, path: Path | None, rehearse: bool = False) -> None:
        self.path = path
        self._rehearse = rehearse
        self._delivery: Delivery | None = None
        self._layout = Layout()
        self._line_end = b"\n"
        self._owed = b""

    def open(self, extract: Extract, schema: Schema, settings: WriteSettings) -> None:
        self._layout = layout_for(settings, extract.dialect)
        self._line_end = self._layout.line_end.encode()
        self._delivery = NoDelivery() if self._rehearse else deliver_to(self.path)
        self.take(render_header(schema.names, self._layout, extract.dialect.byte_order_mark))

    def prepare(self, batch: Batch) -> bytes | memoryview:
        return render_batch(batch, self._layout)

    def take(self, prepared: bytes | memoryview) -> None:
        """The last line end is owed until more comes: an extract may end without one, and so does its output."""
        assert self._delivery is not None
        if not len(prepared):
            return
        if self._owed:
            self._delivery.write(self._owed)
        self._delivery.write(memoryview(prepared)[: len(prepared) - len(self._line_end)])
        self._owed = self._line_end

    def finish(self, extract: Extract) -> None:
        assert self._delivery is not None
        if extract.ends_with_line_end:
            self._delivery.write(self._owed)

    def commit(self) -> None:
        if self._delivery is not None:
            self._delivery.commit()

    def discard(self) -> None:
        if self._delivery is not None:
            self._delivery.discard()


class InMemory:
    """Keeps the cleaned rows as an Arrow table."""

    def __init__(self) -> None:
        self._names: list[str] = []
        self._batches: list[pa.RecordBatch] = []
        self.table: pa.Table = pa.table({})

    def open(self, extract: Extract, schema: Schema, settings: WriteSettings) -> None:  # noqa: ARG002
        self._names = schema.names

    def prepare(self, batch: Batch) -> pa.RecordBatch:
        return batch.to_arrow(self._names)

    def take(self, prepared: pa.RecordBatch) -> None:
        self._batches.append(prepared)

    def finish(self, extract: Extract) -> None:  # noqa: ARG002
        empty = pa.schema([(name, pa.string()) for name in self._names])
        self.table = pa.Table.from_batches(self._batches) if self._batches else empty.empty_table()

    def commit(self) -> None:
        pass

    def discard(self) -> None:
        pass
