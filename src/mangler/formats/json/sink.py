"""Cleaned rows as JSON: one object per line, or an array of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any, TypeAlias, cast

import orjson

from mangler.formats.contract import Source
from mangler.formats.delivered_sink import DeliveredSink
from mangler.formats.json.values import json_values, spelled, without_form
from mangler.formats.quiet_memory import without_collector
from mangler.formats.text_compression import text_compression
from mangler.formats.typed_source import TypedSource
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings

ROWS = 1024
"""That are made objects of at a time: these have a place in a processor's cache."""
DUMP = partial(orjson.dumps, default=spelled)
Shape: TypeAlias = list[tuple[str, Any]]
"""The keys of an object in their order, each with the index of its column, or with the shape of an object."""


@dataclass(frozen=True)
class Objects:
    """Rows as bytes, and how many rows these bytes hold."""

    content: bytes
    rows: int
    lost: dict[int, int]
    """By column how many cells are infinite, or no number."""


class JsonSink(DeliveredSink):
    """Columns that come from objects in the extract go back into such objects."""

    def __init__(self, path: Path | None, rehearse: bool, in_array: bool) -> None:
        super().__init__(path, rehearse)
        self._in_array = in_array
        self._names: Sequence[str] = ()
        self._make: Callable[..., dict[str, Any]] = dict
        self._lost: dict[int, int] = {}

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        nested = like.reading.nested if isinstance(like, TypedSource) else frozenset()
        self._names = schema.names
        self._make = maker_of(shape_of(schema.names, nested), len(schema.columns))
        self._deliver(text_compression(settings), ".json" if self._in_array else ".jsonl")

    def encode(self, batch: Batch) -> Objects:
        between = b",\n" if self._in_array else b"\n"
        with without_collector():
            pieces = [self._lines(batch.slice(start, ROWS), between) for start in range(0, len(batch), ROWS)]
        content = between.join(pieces)
        lost = {index: count for index, column in enumerate(batch.columns) if (count := without_form(column))}
        return Objects(content, content.count(b"\n") + bool(content), lost)

    def _lines(self, batch: Batch, between: bytes) -> bytes:
        columns = [json_values(column) for column in batch.columns]
        rows = map(self._make, *columns) if columns else iter([{}] * len(batch))
        return between.join(map(DUMP, rows))

    def write(self, encoded: Objects) -> None:
        assert self._delivery is not None
        if not encoded.rows:
            return
        front = b"[\n" if not self.rows_written else b",\n"
        self._delivery.write(front + encoded.content if self._in_array else encoded.content + b"\n")
        self.rows_written += encoded.rows
        for index, count in encoded.lost.items():
            self._lost[index] = self._lost.get(index, 0) + count

    def finish(self, like: Source) -> None:  # noqa: ARG002
        assert self._delivery is not None
        if self._in_array:
            self._delivery.write(b"\n]\n" if self.rows_written else b"[]\n")

    def warnings(self) -> list[str]:
        if not self._lost:
            return []
        shown = ", ".join(
            f"{count:,} in {self._names[index]}" for index, count in sorted(self._lost.items())[:4]
        )
        return [
            f"infinite values and such that are no number became null, as JSON has no form for them: {shown}"
        ]


def shape_of(names: Sequence[str], nested: frozenset[str]) -> Shape:
    """How columns go into objects: those of `nested` names into one of their own. A name that is taken stays whole."""
    shape: Shape = []
    objects: dict[str, Shape] = {}
    for index, name in enumerate(names):
        at, rest = shape, name
        parts = name.split(".")
        for length in range(len(parts) - 1, 0, -1):
            prefix = ".".join(parts[:length])
            if prefix in nested and prefix not in names:
                at, rest = _object_at(shape, objects, prefix, nested, names), ".".join(parts[length:])
                break
        at.append((rest, index))
    return shape


def _object_at(
    shape: Shape, objects: dict[str, Shape], prefix: str, nested: frozenset[str], names: Sequence[str]
) -> Shape:
    """The shape of the object of this name, made where it is not there yet."""
    if prefix in objects:
        return objects[prefix]
    parts = prefix.split(".")
    at, own = shape, prefix
    for length in range(len(parts) - 1, 0, -1):
        above = ".".join(parts[:length])
        if above in nested and above not in names:
            at, own = _object_at(shape, objects, above, nested, names), ".".join(parts[length:])
            break
    objects[prefix] = []
    at.append((own, objects[prefix]))
    return objects[prefix]


def maker_of(shape: Shape, width: int) -> Callable[..., dict[str, Any]]:
    """A function that makes an object of a row's values. Python is at its fastest where the keys are in its code."""

    def spelled_shape(inside: Shape) -> str:
        pairs = []
        for key, value in inside:
            held = spelled_shape(value) if isinstance(value, list) else f"v{value}"
            pairs.append(f"{key!r}: {held}")
        return "{" + ", ".join(pairs) + "}"

    arguments = ", ".join(f"v{index}" for index in range(width))
    return cast(
        Callable[..., dict[str, Any]],
        eval(f"lambda {arguments}: {spelled_shape(shape)}", {"__builtins__": {}}),
    )
