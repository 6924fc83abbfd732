"""An output elsewhere: written to a temporary file here, and put in its place when it is complete."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path

from mangler.addresses import name_of
from mangler.formats.contract import Encoded, PendingOutput, Sink, Source
from mangler.formats.delivery import UNFINISHED
from mangler.formats.remote.upload import put, writable
from mangler.formats.temporary import not_made
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings


class UploadedSink:
    """`make` gives the sink of the file here. Nothing is there until the whole of it is."""

    path: Path | None = None

    def __init__(self, address: str, make: Callable[[Path], Sink]) -> None:
        self.place = address
        self._there = writable(address)
        try:
            self._folder = Path(tempfile.mkdtemp(prefix="mangler-"))
        except OSError as error:
            raise not_made(error) from None
        UNFINISHED.add(self._folder)
        self._file = self._folder / name_of(address)
        try:
            self._sink = make(self._file)
        except BaseException:
            self.discard()
            raise

    @property
    def rows_written(self) -> int:
        return self._sink.rows_written

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        self._sink.open(schema, settings, like)

    def encode(self, batch: Batch) -> Encoded:
        return self._sink.encode(batch)

    def write(self, encoded: Encoded) -> None:
        self._sink.write(encoded)

    def finish(self, like: Source) -> None:
        self._sink.finish(like)

    def remarks(self) -> list[str]:
        return self._sink.remarks()

    def warnings(self) -> list[str]:
        return self._sink.warnings()

    def pending(self) -> PendingOutput | None:
        return None

    def commit(self) -> None:
        self._sink.commit()
        try:
            put(self._file, self._there)
        finally:
            self.discard()

    def discard(self) -> None:
        sink = getattr(self, "_sink", None)
        if sink is not None:
            sink.discard()
        shutil.rmtree(self._folder, ignore_errors=True)
        UNFINISHED.discard(self._folder)
