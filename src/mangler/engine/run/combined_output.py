"""Several extracts into one output.

Each extract is cleaned by itself, and its rows wait until all were read: only then it is known which columns there are,
and an extract that is refused leaves none of its rows.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import pyarrow as pa

from mangler.engine.run.destination import FileOutput, Nowhere
from mangler.formats.contract import Encoded, Source
from mangler.formats.row_limit import too_many_rows
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.values.spelled import spelled
from mangler.language.mistake import enumerate_names, extract_does_not_fit
from mangler.table.batch import Batch
from mangler.table.in_order import WORKERS, in_order
from mangler.table.memory_budget import SpoolFile
from mangler.table.packing import MixedOrigin, packed, unpacked
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import quote_name
from mangler.table.settings import WriteSettings
from mangler.table.stored_types import arrow_type, to_worked


class WaitingRows(Nowhere):
    """The cleaned rows of one extract, in a temporary file that it shares with the others."""

    def __init__(self, file: SpoolFile) -> None:
        self._file = file
        self._offsets: list[int] = []
        self._origin = MixedOrigin()
        self.names: tuple[str, ...] = ()
        self.columns: tuple[Column, ...] = ()
        self.source: Source
        self.settings: WriteSettings
        self.rows_written = 0

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        self.source, self.settings = like, settings
        self.columns = schema.columns
        self.names = tuple(schema.names)
        self._origin.file = like.name

    def encode(self, batch: Batch) -> Batch:
        return batch

    def write(self, encoded: Batch) -> None:
        if len(encoded):
            self._offsets.append(self._file.write(packed(encoded)))
            self.rows_written += len(encoded)

    def __iter__(self) -> Iterator[Batch]:
        for offset in self._offsets:
            yield unpacked(self._file.read(offset), self._origin)


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
    return f"other extracts have more columns: this one {has} {enumerate_names(lacking)}, and null is there"


def schema_of_all(parts: Sequence[WaitingRows]) -> Schema:
    """The columns of one output for all: of the type that they have in every extract, or else of texts."""
    found: dict[str, Column] = {}
    for part in parts:
        for column in part.columns:
            known = found.setdefault(column.name, column)
            if known == column:
                continue
            # One that is only stored in another way has the usual form of its type.
            alike = known.type is column.type and known.type in ALIKE
            found[column.name] = Column(column.name, known.type if alike else ValueType.TEXT)
    return Schema(tuple(found[name] for name in columns_of_all(parts)))


ALIKE = (
    ValueType.TEXT,
    ValueType.INTEGER,
    ValueType.FLOAT,
    ValueType.BOOLEAN,
    ValueType.DATE,
    ValueType.LIST,
)
"""Types of which the usual form holds every value of the others."""


def _fitted(array: ColumnArray, own: Column, column: Column) -> ColumnArray:
    """A column of one extract in the type that the output has for it."""
    if own == column:
        return array
    if column.type is ValueType.TEXT:
        return spelled(to_worked(array, own))
    return to_worked(array, own)


def write_combined(parts: Sequence[WaitingRows], output: FileOutput) -> None:
    """Writes the rows of all, extract after extract; what the recipe leaves open is as in the first one."""
    columns = schema_of_all(parts)
    first = parts[0]
    most = output.most_rows(first.source, first.settings)
    if most is not None and sum(part.rows_written for part in parts) > most:
        raise too_many_rows(most)
    output.open(columns, first.settings, first.source)
    for part in parts:
        own = {column.name: (index, column) for index, column in enumerate(part.columns)}

        def encoded(batch: Batch, own: Mapping[str, tuple[int, Column]] = own) -> Encoded:
            arrays = []
            for column in columns.columns:
                index, its = own.get(column.name, (-1, column))
                missing = index < 0
                arrays.append(
                    pa.nulls(len(batch), arrow_type(column))
                    if missing
                    else _fitted(batch.columns[index], its, column)
                )
            return output.encode(batch.with_columns(arrays))

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
