"""An output in files of so many rows each, in one folder."""

from __future__ import annotations

from typing import Any

from mangler.formats.contract import Sink, Source
from mangler.formats.folder_sink import FolderSink, ending_of
from mangler.language.mistake import Refusal, extract_does_not_fit
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings


@dataclass(frozen=True)
class Rows:
    """Rows, and what the sink of a file writes for all of them."""

    batch: Batch
    encoded: Any


class CountedFiles(FolderSink):
    """Writes so many rows to each file, and the rest to the last one. Without a row there is one file."""

    clause, told = "files of", "write files of … rows"

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        super().open(schema, settings, like)
        assert settings.rows_per_file is not None
        self._most, self._like = settings.rows_per_file, like
        self._first = self._last = self._next()
        self._here = 0
        """Rows in the last file."""

    def _next(self) -> Sink:
        number = len(self._files) + 1

        def name() -> str:
            assert self.path is not None and self.folder is not None
            return f"{self.folder.name}-{number:04d}{ending_of(self.path)}"

        return self._new_file(name)

    def _too_many(self, most: int) -> Refusal:
        return extract_does_not_fit(
            "too-many-files",
            f"files of {self._most:,} rows would be more than {most:,}",
            "Have more rows in each.",
        )

    def encode(self, batch: Batch) -> Rows:
        return Rows(batch, self._first.encode(batch))

    def write(self, encoded: Rows) -> None:
        batch, whole = encoded.batch, encoded.encoded
        while len(batch):
            if self._here == self._most:
                self._last.finish(self._like)
                self._last, self._here = self._next(), 0
            room = self._most - self._here
            some = batch.slice(0, room) if len(batch) > room else batch
            self._last.write(whole if some is encoded.batch else self._last.encode(some))
            self._here += len(some)
            batch = batch.slice(len(some), len(batch) - len(some))

    def finish(self, like: Source) -> None:
        self._last.finish(like)
