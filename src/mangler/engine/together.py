"""Several extracts into one output.

Each extract is cleaned by itself, and its rows wait until all were read: only then it is known which columns there are,
and an extract that is refused leaves none of its rows.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

import pyarrow as pa

from mangler.engine.destination import DelimitedOutput, refuse_lists
from mangler.engine.pipeline import WORKERS, in_order
from mangler.engine.recording import Put
from mangler.formats.delimited.extract import Extract
from mangler.kernels.spell import spell
from mangler.language.mistake import enumerate_names
from mangler.language.source import Place
from mangler.table.batch import Batch
from mangler.table.gathered import GatheredOrigin, packed, unpacked
from mangler.table.room import SpoolFile
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import spell as spell_name
from mangler.table.settings import WriteSettings


class WaitingRows:
    """The cleaned rows of one extract, as texts, in a temporary file that it shares with the others."""

    def __init__(self, file: SpoolFile) -> None:
        self._file = file
        self._places: list[int] = []
        self._origin = GatheredOrigin()
        self.names: tuple[str, ...] = ()
        self.extract: Extract
        self.settings: WriteSettings
        self.place: Place | None = None

    def open(self, extract: Extract, schema: Schema, settings: WriteSettings, place: Place | None) -> None:
        refuse_lists(schema)
        self.extract, self.settings, self.place = extract, settings, place
        self.names = tuple(schema.names)
        self._origin.file = extract.name

    def prepare(self, batch: Batch) -> Batch:
        return batch.with_columns([spell(column) for column in batch.columns])

    def take(self, prepared: Batch) -> None:
        if len(prepared):
            self._places.append(self._file.write(packed(prepared)))

    def __iter__(self) -> Iterator[Batch]:
        for place in self._places:
            yield unpacked(self._file.read(place), self._origin)

    def finish(self, extract: Extract) -> None:
        pass

    def put(self) -> Put | None:
        return None

    def commit(self) -> None:
        pass

    def discard(self) -> None:
        pass


def columns_of_all(parts: Sequence[WaitingRows]) -> list[str]:
    """The columns of one output for all: those of the first extract, then those that later ones have besides."""
    return list(dict.fromkeys(name for part in parts for name in part.names))


def columns_lacking(part: WaitingRows, names: Sequence[str]) -> str:
    """Warns of columns that other extracts have and this one has not; empty where there are none."""
    own = set(part.names)
    lacking = [spell_name(name) for name in names if name not in own]
    if not lacking:
        return ""
    has = "has no column" if len(lacking) == 1 else f"has none of {len(lacking)} columns"
    return (
        f"other extracts have more columns: this one {has} {enumerate_names(lacking)}, and null stands there"
    )


def write_together(parts: Sequence[WaitingRows], output: DelimitedOutput) -> None:
    """Writes the rows of all, extract after extract; in the output's form the first one is followed."""
    names = columns_of_all(parts)
    first = parts[0]
    columns = Schema(tuple(Column(name, ValueType.TEXT) for name in names))
    output.open(first.extract, columns, first.settings, first.place)
    for part in parts:
        own = {name: place for place, name in enumerate(part.names)}
        places = [own.get(name) for name in names]

        def rendered(batch: Batch, places: Sequence[int | None] = places) -> Any:
            nothing = pa.nulls(len(batch), pa.string())
            return output.prepare(
                batch.with_columns([nothing if at is None else batch.columns[at] for at in places])
            )

        for lines in in_order(part, rendered, WORKERS):
            output.take(lines)
    output.finish(parts[-1].extract)
