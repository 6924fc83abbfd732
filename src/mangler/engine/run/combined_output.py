"""The rows of several extracts that wait to become one table.

Each extract is cleaned by itself, up to the first step that looks at more than one row, and its rows wait until all
were read: only then it is known which columns there are, and an extract that is refused leaves none of its rows.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from mangler.engine.run.destination import Nowhere
from mangler.formats.contract import Source
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.values.spelled import spelled
from mangler.language.mistake import enumerate_names
from mangler.table.batch import Batch
from mangler.table.memory_budget import SpoolFile
from mangler.table.packing import MixedOrigin, packed, unpacked
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import quote_name
from mangler.table.settings import WriteSettings
from mangler.table.stored_types import to_worked


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


def columns_lacking(own: Sequence[str], names: Sequence[str]) -> str:
    """Warns of columns that other extracts have and this one has not; empty where there are none."""
    known = set(own)
    lacking = [quote_name(name) for name in names if name not in known]
    if not lacking:
        return ""
    has = "has no column" if len(lacking) == 1 else f"has none of {len(lacking)} columns"
    return f"other extracts have more columns: this one {has} {enumerate_names(lacking)}, and null is there"


def schema_of_all(parts: Sequence[Sequence[Column]]) -> Schema:
    """The columns of one table of all: first those of the first extract, then further columns of later ones.

    Each has the type that it has in every extract, or else is text.
    """
    found: dict[str, Column] = {}
    for columns in parts:
        for column in columns:
            known = found.setdefault(column.name, column)
            if known == column:
                continue
            # One that is only stored in another way has the usual form of its type.
            alike = known.type is column.type and known.type in ALIKE
            found[column.name] = Column(column.name, known.type if alike else ValueType.TEXT)
    return Schema(tuple(found.values()))


ALIKE = (
    ValueType.TEXT,
    ValueType.INTEGER,
    ValueType.FLOAT,
    ValueType.BOOLEAN,
    ValueType.DATE,
    ValueType.LIST,
)
"""Types of which the usual form holds every value of the others."""


def fitted(array: ColumnArray, own: Column, column: Column) -> ColumnArray:
    """A column of one extract in the type that the output has for it."""
    if own == column:
        return array
    if column.type is ValueType.TEXT:
        return spelled(to_worked(array, own))
    return to_worked(array, own)
