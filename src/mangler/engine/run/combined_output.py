"""Several extracts into one output.

Each extract is cleaned by itself, and its rows wait until all were read: only then it is known which columns there are,
and an extract that is refused leaves none of its rows.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

import pyarrow as pa

from mangler.engine.run.destination import FileOutput
from mangler.formats.cells import refuse_lists
from mangler.formats.contract import Encoded, PendingOutput, Source
from mangler.formats.reading import WORKERS, in_order
from mangler.kernels.values.format_values import format_values
from mangler.language.mistake import enumerate_names, extract_does_not_fit
from mangler.table.batch import Batch
from mangler.table.memory_budget import SpoolFile
from mangler.table.packing import MixedOrigin, packed, unpacked
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import quote_name
from mangler.table.settings import WriteSettings


class WaitingRows:
    """The cleaned rows of one extract, as texts, in a temporary file that it shares with the others."""

    path: Path | None = None

    def __init__(self, file: SpoolFile) -> None:
        self._file = file
        self._offsets: list[int] = []
        self._origin = MixedOrigin()
        self.names: tuple[str, ...] = ()
        self.source: Source
        self.settings: WriteSettings
        self.rows_written = 0

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        refuse_lists(schema)
        self.source, self.settings = like, settings
        self.names = tuple(schema.names)
        self._origin.file = like.name

    def encode(self, batch: Batch) -> Batch:
        return batch.with_columns([format_values(column) for column in batch.columns])

    def write(self, encoded: Batch) -> None:
        if len(encoded):
            self._offsets.append(self._file.write(packed(encoded)))
            self.rows_written += len(encoded)

    def __iter__(self) -> Iterator[Batch]:
        for offset in self._offsets:
            yield unpacked(self._file.read(offset), self._origin)

    def finish(self, like: Source) -> None:
        pass

    def pending(self) -> PendingOutput | None:
        return None

    def commit(self) -> None:
        pass

    def discard(self) -> None:
        pass


def columns_of_all(parts: Sequence[WaitingRows]) -> list[str]:
    """The columns of one output for all: first those of the first extract, then further columns of later ones."""
    return list(dict.fromkeys(name for part in parts for name in part.names))


def columns_lacking(part: WaitingRows, names: Sequence[str]) -> str:
    """Warns of columns that other extracts have and this one has not; empty where there are none."""
    own = set(part.names)
    lacking = [quote_name(name) for name in names if name not in own]
    if not lacking:
        return ""
    has = "has no column" if len(lacking) == 1 else f"has none of {len(lacking)} columns"
    return (
        f"other extracts have more columns: this one {has} {enumerate_names(lacking)}, and null stands there"
    )


def write_combined(parts: Sequence[WaitingRows], output: FileOutput) -> None:
    """Writes the rows of all, extract after extract; what the recipe leaves open is as in the first one."""
    names = columns_of_all(parts)
    first = parts[0]
    columns = Schema(tuple(Column(name, ValueType.TEXT) for name in names))
    output.open(columns, first.settings, first.source)
    for part in parts:
        own = {name: index for index, name in enumerate(part.names)}
        indexes = [own.get(name) for name in names]

        def encoded(batch: Batch, indexes: Sequence[int | None] = indexes) -> Encoded:
            nothing = pa.nulls(len(batch), pa.string())
            return output.encode(
                batch.with_columns([nothing if at is None else batch.columns[at] for at in indexes])
            )

        for some in in_order(part, encoded, WORKERS):
            output.write(some)
    output.finish(parts[-1].source)
    held = sum(part.rows_written for part in parts)
    if output.rows_written != held:
        raise extract_does_not_fit(
            "rows-lost",
            f"the output holds {output.rows_written:,} rows, and the extracts have {held:,}",
            "Nothing is delivered. This is a fault of Mangler: please report it with the recipe.",
        )
