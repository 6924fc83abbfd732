"""JSON as an extract: its rows in partitions, their text as it is, their lines."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import chain

import pyarrow as pa

from mangler.formats.contract import ReadRequest
from mangler.formats.dividing import Piece
from mangler.formats.json.aside import JsonAsideFile
from mangler.formats.json.division import Found, LineDivision, surveyed
from mangler.formats.json.partitions import partitions_of_scan
from mangler.formats.json.scan import JSON, Scan, scan
from mangler.formats.json.splitting import Layout, layout_of
from mangler.formats.location import Location
from mangler.formats.typed_source import COMMON_CLAUSES, Reading, TypedPartition, TypedSource, typed_source
from mangler.language.mistake import enumerate_names, extract_does_not_fit, file_trouble

READ_CLAUSES = COMMON_CLAUSES
HEAD = 1 << 16
MOST_TOLD = 4


def layout_at(location: Location) -> Layout | None:
    """The layout of the objects in a file; None where it holds something else."""
    return layout_of(location.head(HEAD))


def open_json(location: Location, request: ReadRequest, format_name: str) -> TypedSource:
    """Opens a file of objects. It is read once to its end, as the types are those of all its values, here or by all who
    help to open it."""
    layout = layout_at(location)
    if layout is None:
        if not location.head(1):
            raise file_trouble("file-empty", f"{location.name} is empty", "Was it written to its end?")
        raise file_trouble(
            "other-format",
            f"{location.name} does not start with an object of JSON, nor with an array of them",
            "Leave format json out of read, to have its format detected.",
        )
    if layout is Layout.LINES and (divided := _divided(location, request)) is not None:
        known, pieces = divided
        found = Scan(location.path or location.file(), layout, facts=known.facts)
        division = LineDivision(known, found.file, location.name, pieces)
    else:
        found = scan(location.file(), layout, location.name, location.size, request.rows)
        division = None
    columns = found.columns
    if not columns:
        found.close()
        what = "no objects" if not found.rows else "objects without keys"
        raise extract_does_not_fit("no-columns", f"{location.name} holds {what}", "Is it the right file?")
    schema = pa.schema(
        [(".".join(path), JSON if target.is_tree else target.type) for path, target in columns.items()]
    )

    def partitions() -> Iterator[TypedPartition]:
        if division is None:
            return partitions_of_scan(found, location.name)
        every = chain.from_iterable(map(division.partitions, division.found))
        return (replace(one, index=index) for index, one in enumerate(every))

    return typed_source(
        location,
        request,
        format_name,
        Reading(schema, partitions, found.close, found.nested, division),
        lambda path, source: JsonAsideFile(path, source.name, layout is Layout.ARRAY),
        details={"layout": layout.value},
        was_set_aside=found.was_set_aside,
        remarks=_remarks(found),
    )


def _divided(location: Location, request: ReadRequest) -> tuple[Found, tuple[Piece, ...]] | None:
    """What a survey of a divided file found, and its pieces; None where it is read from its start."""
    if isinstance(request.known, Found):
        return request.known, ()
    return surveyed(location, request.helpers) if request.helpers is not None else None


def _remarks(found: Scan) -> list[str]:
    """Columns that hold several kinds of values."""
    mixed = [f"{'.'.join(path)} ({target.mixed})" for path, target in found.columns.items() if target.mixed]
    if not mixed:
        return []
    what = "1 column holds" if len(mixed) == 1 else f"{len(mixed):,} columns hold"
    return [f"{what} values of several kinds, read as text: {enumerate_names(mixed, MOST_TOLD)}"]
