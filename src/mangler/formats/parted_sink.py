"""One output per value of some columns: files in one folder."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np

from mangler.formats.contract import Sink, Source
from mangler.formats.folder_sink import FolderSink, ending_of
from mangler.kernels.arrow import from_numpy
from mangler.kernels.keys.keys import keys_of
from mangler.kernels.values.format_values import format_values
from mangler.language.mistake import Refusal, extract_does_not_fit, nearest, wrong_recipe
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.schema import Schema, ValueType
from mangler.table.settings import WriteSettings
from mangler.table.stored_types import to_worked

UNSAFE = re.compile(r'[\x00-\x1f\x7f/\\:*?"<>|]+')
LONGEST_NAME = 100
NULL, EMPTY = "null", "empty"
"""The names of null and of texts that leave nothing for a name."""


@dataclass(frozen=True)
class Parts:
    """Rows by the file that they go to: the values that its name is made from, and the rows."""

    rows: list[tuple[tuple[str | None, ...], Batch]]


class PartedSink(FolderSink):
    """Writes each row to the file of its values."""

    clause, told = "by", "write by"

    def __init__(self, path: Path | None, rehearse: bool, make: Callable[[Path | None], Sink]) -> None:
        super().__init__(path, rehearse, make)
        self._indices: list[int] = []
        self._names: list[str] = []
        self._form: tuple[str | tuple[str], ...] = ()
        self._schema = Schema(())
        self._sinks: dict[tuple[str | None, ...], Sink] = {}
        self._taken: dict[str, str] = {}

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        self._schema, self._names = schema, list(settings.by)
        self._indices = [self._index(name, schema, settings) for name in settings.by]
        between = [part for name in settings.by for part in ("-", (name,))]
        self._form = settings.named or tuple(between[1:])
        super().open(schema, settings, like)

    def _index(self, name: str, schema: Schema, settings: WriteSettings) -> int:
        span = settings.spans.get("by")
        if name not in schema.names:
            close = nearest(name, schema.names)
            raise extract_does_not_fit(
                "unknown-column",
                f'no column "{name}" comes out of the steps, and write by names it',
                f"Nearest: {close[0]}." if close else "",
                span,
            )
        index = schema.names.index(name)
        if schema.columns[index].type in (ValueType.LIST, ValueType.OTHER):
            raise wrong_recipe(
                "wrong-type",
                f'"{name}" is {schema.columns[index].type}, and files are named after single values',
                f'Make a text of it first: convert {name} to text, or joined({name}, "-").',
                span,
            )
        return index

    def encode(self, batch: Batch) -> Parts:
        columns = [
            format_values(to_worked(batch.columns[index], self._schema.columns[index]))
            for index in self._indices
        ]
        keys = keys_of(columns, len(batch))
        order = np.argsort(keys.codes, kind="stable")
        bounds = np.searchsorted(keys.codes[order], np.arange(keys.count + 1))
        parts = []
        for number, first in enumerate(keys.first.tolist()):
            rows = order[bounds[number] : bounds[number + 1]]
            chosen = from_numpy(rows)
            own = Batch(
                tuple(column.take(chosen) for column in batch.columns), batch.rows[rows], batch.origin
            )
            parts.append((tuple(column[first].as_py() for column in columns), own))
        return Parts(parts)

    def write(self, encoded: Parts) -> None:
        for values, batch in encoded.rows:
            sink = self._sinks.get(values) or self._new(values)
            sink.write(sink.encode(batch))

    def _new(self, values: tuple[str | None, ...]) -> Sink:
        sink = self._new_file(lambda: self._name(values))
        self._sinks[values] = sink
        return sink

    def _too_many(self, most: int) -> Refusal:
        return extract_does_not_fit(
            "too-many-files",
            f"write by {', '.join(self._names)} would make more than {most:,} files",
            "Take a column of fewer values, or write one file.",
        )

    def _name(self, values: Sequence[str | None]) -> str:
        """A name for the file of these values. Two that would have the same one, letter case aside, are numbered."""
        assert self.path is not None
        by_name = dict(zip(self._names, map(_safe, values), strict=True))
        stem = "".join(part if isinstance(part, str) else by_name[part[0]] for part in self._form)
        stem = UNSAFE.sub("-", stem).strip(". ")[:LONGEST_NAME] or EMPTY
        name, number = stem, 1
        while name.casefold() in self._taken:
            number += 1
            name = f"{stem}-{number}"
        self._taken[name.casefold()] = name
        return f"{name}{ending_of(self.path)}"


def _safe(value: str | None) -> str:
    """A value as a part of a file's name."""
    if value is None:
        return NULL
    return UNSAFE.sub("-", value).strip() or EMPTY
