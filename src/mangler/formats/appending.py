"""Rows put behind those of a file that is there: what it holds must fit, and is kept as it is.

The rows before are copied into the new file, which then takes the place of the old one: whatever ends the run before
that leaves the file as it was.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

from mangler.formats.contract import Format, ReadRequest, Sink, Source
from mangler.formats.delivered_sink import DeliveredSink, RowsBefore
from mangler.formats.registry import format_of_output, open_source, open_unpacked, sink_for
from mangler.language.mistake import extract_does_not_fit, file_trouble, wrong_recipe
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import quote_name
from mangler.table.settings import ReadSettings, WriteSettings
from mangler.table.stored_types import arrow_type

MOST_DIFFERENCES = 5
LONGEST_NOTHING = 1 << 10
"""Bytes of white space, and perhaps an empty array, that make an empty file."""


def sink_behind(
    like: Source, path: Path, rehearse: bool, settings: WriteSettings, schema: Schema
) -> tuple[Sink, list[str]]:
    """The output at a path where rows are already, opened, and remarks. What differs is refused with what it is.

    Columns are compared by name and place, in formats with types by type. What `write` leaves open is as in the file.
    """
    seen = path.stat()
    with _opened(path, like, settings, schema) as old:
        chosen = format_of_output(old, path, settings)
        if chosen.name != old.details["format"]:
            raise extract_does_not_fit(
                "append-does-not-fit",
                f"{path} is {old.details['format']}, and the rows would be written as {chosen.name}",
                "Write the format that is there, or name another file.",
            )
        _refuse_differences(old, path, schema)
        sink, remarks = sink_for(old, path, rehearse, settings)
        assert isinstance(sink, DeliveredSink)
        if not rehearse:
            sink.rows_before = _Before(path)
        try:
            sink.open(schema, settings, old)
        except BaseException:
            sink.discard()
            raise
    try:
        now = path.stat()
        if (now.st_ino, now.st_size, now.st_mtime_ns) != (seen.st_ino, seen.st_size, seen.st_mtime_ns):
            raise file_trouble(
                "file-changed",
                f"{path} was changed while this run began",
                "Nothing is written. Run again: the rows go behind what is there then.",
            )
    except BaseException:
        sink.discard()
        raise
    return sink, remarks


def refuse_unfit(chosen: Format, path: Path, settings: WriteSettings) -> None:
    """Refuses outputs that no rows are put behind, also before there is one."""
    if settings.makes_folder:
        clause, told = ("by", "by") if settings.by else ("files of", "files of … rows")
        raise wrong_recipe(
            "append-not-possible",
            f"write {told} makes a folder of files, and --append goes on with one file",
            f"Leave out --append, or take {told} out of write.",
            settings.spans.get(clause),
        )
    if chosen.most_rows is not None:
        raise wrong_recipe(
            "append-not-possible",
            f"{path} is a {chosen.name}, and no rows are put behind those of a {chosen.name}",
            "Append to a file of another format, as .csv or .parquet, and make the workbook of that.",
        )


def holds_nothing(path: Path) -> bool:
    """Whether a file is empty, or of JSON without an object: it has no columns that others could differ from."""
    location = open_unpacked(str(path))
    try:
        return location.head(LONGEST_NOTHING).strip() in (b"", b"[]")
    finally:
        location.close()


class _Before(RowsBefore):
    def __init__(self, path: Path) -> None:
        self._path = path

    def content(self) -> Iterator[bytes]:
        location = open_unpacked(str(self._path))
        try:
            while piece := location.content.read(1 << 20):
                yield piece
        finally:
            location.close()

    def records(self) -> Iterator[Any]:
        with closing(open_source(str(self._path))) as source:
            for partition in source.partitions():
                yield partition.records  # type: ignore[attr-defined]


@contextmanager
def _opened(path: Path, like: Source, settings: WriteSettings, schema: Schema) -> Iterator[Source]:
    """The file that is there, read so that it has as many of the columns that come as it can have."""
    read = ReadSettings(encoding=settings.encoding, widths=settings.widths)
    delimiters: list[str | None] = [settings.delimiter]
    if settings.delimiter is None and not settings.widths:
        dialect = getattr(like, "dialect", None)
        delimiters.append(dialect.written_delimiter if dialect is not None else ",")
    best: Source | None = None
    try:
        for delimiter in delimiters:
            source = open_source(str(path), ReadRequest(replace(read, delimiter=delimiter)))
            if best is None or _shared(source, schema) > _shared(best, schema):
                best, source = source, best
            if source is not None:
                source.close()
        assert best is not None
        yield best
    finally:
        if best is not None:
            best.close()


def _shared(source: Source, schema: Schema) -> int:
    """How many columns of the rows that come are in the file."""
    return len(set(source.schema.names) & set(schema.names))


def _refuse_differences(old: Source, path: Path, schema: Schema) -> None:
    before, now = old.schema, schema
    differences: list[str] = []
    if before.names != now.names:
        differences = _other_names(before.names, now.names)
    else:
        for mine, its in zip(now.columns, before.columns, strict=True):
            if not _fits(mine, its, old):
                differences.append(f"{quote_name(mine.name)} is {_type(its)} there, and {_type(mine)} now")
    if differences:
        shown = "\n".join(f"    {line}" for line in differences[:MOST_DIFFERENCES])
        more = len(differences) - MOST_DIFFERENCES
        shown += f"\n    and {more:,} more" * (more > 0)
        raise extract_does_not_fit(
            "append-does-not-fit",
            f"{path} has other columns than the rows that come:\n{shown}",
            "Nothing is written. Let the recipe give the columns that are there, in their order; or name another"
            " file.",
        )


def _other_names(before: Sequence[str], now: Sequence[str]) -> list[str]:
    lacking = [
        f"{quote_name(name)} is there, and not in the rows that come" for name in before if name not in now
    ]
    new = [f"{quote_name(name)} is new" for name in now if name not in before]
    if lacking or new:
        return [*lacking, *new]
    at = next(index for index, name in enumerate(now) if before[index] != name)
    return [
        f"the order is another: column {at + 1} is {quote_name(before[at])} there, and {quote_name(now[at])} now"
    ]


NUMBERS = (ValueType.INTEGER, ValueType.FLOAT, ValueType.DECIMAL)


def _fits(mine: Column, its: Column, old: Source) -> bool:
    """Whether a column can go behind one that is there. Text holds every value, JSON tells three kinds of them."""
    if old.details["format"] == "delimited text":
        return True
    if old.details["format"].startswith("JSON"):
        kinds = (NUMBERS, (ValueType.BOOLEAN,), (ValueType.LIST,))
        kind = [next((number for number, one in enumerate(kinds) if c.type in one), -1) for c in (mine, its)]
        return kind[0] == kind[1]
    return bool(arrow_type(mine) == arrow_type(its))


def _type(column: Column) -> str:
    return str(arrow_type(column)) if column.stored is not None else str(column.type)
