"""The file of rows set aside of a format with types of its own: its columns, with where each row came from in front."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.formats.aside import ASIDE_COLUMNS, AsideRows
from mangler.formats.contract import Sink, Source
from mangler.formats.saved_rows import SavedRows
from mangler.formats.typed_source import TypedPartition
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings
from mangler.table.stored_types import file_column

TYPES = (pa.string(), pa.int64(), pa.string(), pa.string())
"""Of the columns in front: the extract, the row, the step and the reason."""


class TypedAsideFile:
    """Made only when there is a row for it; the same sink writes it that writes outputs of the format."""

    def __init__(
        self, path: Path | None, source: Source, schema: Any, make_sink: Callable[[Path], Sink]
    ) -> None:
        self.path = path
        self._source, self._schema, self._make_sink = source, schema, make_sink
        self._sink: Sink | None = None

    def add(self, rows: AsideRows) -> None:
        if not len(rows) or self.path is None:
            return
        if self._sink is None:
            self._sink = self._make_sink(self.path)
            own = zip(self._schema.names, self._schema.types, strict=True)
            fields = [*zip(ASIDE_COLUMNS, TYPES, strict=True), *own]
            columns = tuple(file_column(name, kind) for name, kind in fields)
            self._sink.open(Schema(columns), WriteSettings(), self._source)
        partition, notes = rows.partition, rows.notes
        assert isinstance(partition, (TypedPartition, SavedRows))
        codes = pa.array(notes.codes)
        front = [
            pa.array([self._source.name] * len(rows), pa.string()),
            pa.array(notes.rows),
            pa.array(rows.steps, pa.string()).take(codes),
            pa.array(notes.reasons, pa.string()).take(codes),
        ]
        records = partition.records_of(notes.rows)
        batch = Batch((*front, *records.columns), np.asarray(notes.rows), partition)
        self._sink.write(self._sink.encode(batch))

    def commit(self) -> None:
        if self._sink is not None:
            self._sink.finish(self._source)
            self._sink.commit()

    def discard(self) -> None:
        if self._sink is not None:
            self._sink.discard()
