"""What both forms of JSON have in common."""

from __future__ import annotations

from pathlib import Path

from mangler.formats.contract import ReadRequest
from mangler.formats.json.reading import READ_CLAUSES, layout_at, open_json
from mangler.formats.json.sink import JsonSink
from mangler.formats.json.splitting import Layout
from mangler.formats.location import Location
from mangler.formats.typed_source import TypedSource
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class JsonFormat:
    """Objects one after the other, or in an array."""

    name: str
    words: frozenset[str]
    suffixes: tuple[str, ...]
    in_array: bool
    read_clauses: frozenset[str] = READ_CLAUSES
    write_clauses: frozenset[str] = frozenset({"format", "compression"})
    is_written: bool = True
    most_rows: int | None = None

    def recognises(self, location: Location) -> bool:
        found = layout_at(location)
        return found is not None and (found is Layout.ARRAY) == self.in_array

    def parts(self, location: Location) -> tuple[str, ...]:  # noqa: ARG002
        return ()

    def open(self, location: Location, request: ReadRequest) -> TypedSource:
        return open_json(location, request, self.name)

    def sink(self, path: Path | None, rehearse: bool) -> JsonSink:
        return JsonSink(path, rehearse, self.in_array)
