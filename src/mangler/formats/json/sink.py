"""Cleaned rows as JSON: one object per line, or an array of them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any, TypeAlias

import orjson
import pyarrow as pa
import pyarrow.compute as pc

from mangler.formats.contract import Source
from mangler.formats.delivered_sink import DeliveredSink, RowsBefore
from mangler.formats.json.texts import json_texts
from mangler.formats.json.values import without_form
from mangler.formats.text_compression import text_compression
from mangler.formats.typed_source import TypedSource
from mangler.kernels.text.text_view import view
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings

ROWS, MOST_BYTES = 8192, 32 << 20
"""That are made objects of at a time."""
END_OF_ARRAY = b" \t\r\n[]"
"""Bytes of which the end of an array is made, and what comes before it where it is empty."""
ENDS = {b"[\n": b"[]\n", b"\n": b"]\n"}
"""How an array ends that has no rows, by what would have come before the first."""
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
        self._between = b",\n" if in_array else b"\n"
        self._front = b"[\n"
        """What comes before the next row of an array."""
        self._names: Sequence[str] = ()
        self._template: list[str | int] = []
        self._lost: dict[int, int] = {}

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        nested = like.reading.nested if isinstance(like, TypedSource) else frozenset()
        self._names = schema.names
        shape = shape_of(schema.names, nested)
        self._template = [*template_of(shape)[:-1], "}" + self._between.decode()]
        self._deliver(text_compression(settings), ".json" if self._in_array else ".jsonl")
        if self.rows_before is not None:
            self._go_on_behind(self.rows_before)

    def _go_on_behind(self, before: RowsBefore) -> None:
        """Copies the rows before; of an array all but its end."""
        assert self._delivery is not None
        if not self._in_array:
            if not self._copy_before().endswith(b"\n"):
                self._delivery.write(b"\n")
            return
        held = b""
        for piece in before.content():
            held += piece
            end = held.rstrip(END_OF_ARRAY)
            self._delivery.write(end)
            held = held[len(end) :]
        # All that is held is the end: white space and brackets, of which the last is the array's own.
        rest = held[: held.rindex(b"]")].rstrip()
        self._delivery.write(rest)
        self._front = b"\n" if rest.endswith(b"[") else b",\n"

    def encode(self, batch: Batch) -> Objects:
        lost = {index: count for index, column in enumerate(batch.columns) if (count := without_form(column))}
        if not batch.columns:
            return Objects(self._between.join([b"{}"] * len(batch)), len(batch), lost)
        step = max(1, min(ROWS, len(batch) * MOST_BYTES // max(1, _size(batch))))
        pieces = [
            piece for start in range(0, len(batch), step) for piece in self._pieces(batch.slice(start, step))
        ]
        return Objects(self._between.join(pieces), len(batch), lost)

    def _pieces(self, batch: Batch) -> Iterator[memoryview]:
        """The objects of some rows, with what is between them; in two parts where they are more than a column holds."""
        try:
            texts = [json_texts(column) for column in batch.columns]
            joined = pc.binary_join_element_wise(
                *(piece if isinstance(piece, str) else texts[piece] for piece in self._template), ""
            )
        except (pa.ArrowCapacityError, pa.ArrowInvalid):
            if len(batch) == 1:
                raise
            half = len(batch) // 2
            yield from self._pieces(batch.slice(0, half))
            yield from self._pieces(batch.slice(half, len(batch) - half))
            return
        yield view(joined).data[: -len(self._between)].data

    def write(self, encoded: Objects) -> None:
        assert self._delivery is not None
        if not encoded.rows:
            return
        self._delivery.write(self._front + encoded.content if self._in_array else encoded.content + b"\n")
        self._front = b",\n"
        self.rows_written += encoded.rows
        for index, count in encoded.lost.items():
            self._lost[index] = self._lost.get(index, 0) + count

    def finish(self, like: Source) -> None:  # noqa: ARG002
        assert self._delivery is not None
        if self._in_array:
            self._delivery.write(ENDS.get(self._front, b"\n]\n"))

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


def template_of(shape: Shape) -> list[str | int]:
    """An object in pieces: its marks and keys as JSON, and between them the indexes of the columns."""
    pieces: list[str | int] = []
    mark = "{"
    for key, value in shape:
        pieces.append(f"{mark}{orjson.dumps(key).decode()}:")
        pieces.extend(template_of(value) if isinstance(value, list) else [value])
        mark = ","
    return [*pieces, "}"]


def _size(batch: Batch) -> int:
    return sum(column.nbytes for column in batch.columns)
