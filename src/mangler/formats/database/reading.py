"""A table or a query of a database as an extract."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

from mangler.formats.contract import ReadRequest, Sink
from mangler.formats.database.connecting import connect, database_of
from mangler.formats.database.contract import Connection, Query, Rows
from mangler.formats.database.growing import Growing
from mangler.formats.database.trouble import no_such_table
from mangler.formats.typed_aside import TypedAsideFile
from mangler.formats.typed_source import (
    COMMON_CLAUSES,
    Reading,
    TypedPartition,
    TypedSource,
    is_aside,
    typed_source,
)
from mangler.language.mistake import (
    enumerate_names,
    extract_does_not_fit,
    file_trouble,
    nearest,
    reason,
    wrong_recipe,
)
from mangler.language.placeholders import names_in
from mangler.late_dataclass import dataclass
from mangler.table.settings import ReadSettings

READ_CLAUSES = COMMON_CLAUSES | {"table", "query", "query from", "newer than", "overlap"}
MOST_NAMED = 8
LARGEST_QUERY = 1 << 20


@dataclass(frozen=True)
class _Place:
    """What stands for the file of a source that has none."""

    name: str
    compression: None = None
    packed_in: str = ""

    def digest(self) -> None:
        return None

    def close(self) -> None: ...


def open_table(address: str, table: str, request: ReadRequest, name: str, make_aside: Any) -> TypedSource:
    """Opens what `read` names, or else the table that the address names.

    `make_aside` gives the sink of rows set aside.
    """
    settings = request.settings
    connection = connect(address, writes=False)
    try:
        rows, named = _rows(connection, address, table, settings)
        schema = rows.schema
        growing = _growing(request, schema, address)
        if growing is not None and request.only_new and growing.start is not None:
            rows = rows.above(growing.column, *growing.start)
            schema = rows.schema
    except BaseException:
        connection.close()
        raise

    def partitions() -> Iterator[TypedPartition]:
        first = 1
        for index, records in enumerate(_ahead(rows.batches())):
            if growing is not None:
                records = growing.only_new(records)
            yield TypedPartition(index, first, records, 0, False, name)
            first += records.num_rows

    def aside(path: Path | None, source: TypedSource) -> TypedAsideFile:
        def sink(to: Path) -> Sink:
            found: Sink = make_aside(to)
            return found

        return TypedAsideFile(path, source, schema, sink)

    return typed_source(
        _Place(name),
        request,
        database_of(address),
        Reading(
            schema,
            partitions,
            connection.close,
            newest=growing.noted if growing is not None else lambda: None,
        ),
        aside,
        was_set_aside=is_aside(schema.names),
        remarks=rows.remarks,
        read_as=replace(settings, table=named) if request.survey and named else None,
        later=growing.remarks if growing is not None else list,
    )


def _growing(request: ReadRequest, schema: Any, address: str) -> Growing | None:
    """What says which rows are new; None where nothing does."""
    settings = request.settings
    if settings.newer_than is None:
        if request.only_new:
            raise wrong_recipe(
                "clause-needed",
                f"{address} is a database, and nothing says which of its rows are new",
                "Name a column whose values grow: read table … newer than id. Or leave out --only-new.",
            )
        return None
    before = request.delivered if request.only_new else None
    span = settings.spans.get("newer than")
    return Growing(settings.newer_than, settings.overlap, schema, before, span)


def _ahead(batches: Iterator[Any]) -> Iterator[Any]:
    """The batches, of which the next one is fetched while one is worked on."""
    with ThreadPoolExecutor(1, "mangler-fetch") as pool:
        coming = pool.submit(next, batches, None)
        while (records := coming.result()) is not None:
            coming = pool.submit(next, batches, None)
            yield records


def _rows(connection: Connection, address: str, table: str, settings: ReadSettings) -> tuple[Rows, str]:
    """The rows, and the name of the table where they are those of one."""
    if settings.query is not None or settings.query_from is not None:
        return connection.query(_query(settings)), ""
    named = settings.table if settings.table is not None else table
    if not named:
        named = _only_table(connection, address)
    found = connection.table(named)
    if found is None:
        span = settings.spans.get("table") if settings.table is not None else None
        raise no_such_table(address, named, connection.tables(), span)
    return found, named


def _only_table(connection: Connection, address: str) -> str:
    tables = connection.tables()
    if len(tables) == 1:
        return tables[0]
    raise extract_does_not_fit(
        "no-such-table",
        f"{address} holds {len(tables)} tables, and none of them is named",
        f"Name one behind #, {address}#{tables[0]}, or in the recipe: read table. It has"
        f" {enumerate_names(tables, MOST_NAMED)}."
        if tables
        else "Is it the right database?",
    )


def _query(settings: ReadSettings) -> Query:
    """The query with the values of its parameters."""
    text, span = settings.query, settings.spans.get("query")
    if settings.query_from is not None:
        span = settings.spans.get("query from")
        try:
            with settings.query_from.open(encoding="utf-8") as file:
                text = file.read(LARGEST_QUERY + 1)
        except OSError as error:
            raise file_trouble(
                "file-not-read", f"the query {settings.query_from} cannot be read: {reason(error)}"
            ) from None
        except UnicodeDecodeError:
            raise file_trouble("file-not-read", f"the query {settings.query_from} is not UTF-8") from None
    assert text is not None
    if len(text) > LARGEST_QUERY:
        raise file_trouble(
            "file-too-large",
            f"{settings.query_from or 'the query'} has more than {LARGEST_QUERY:,} characters",
            "Is it the right file?",
        )
    if not text.strip():
        raise wrong_recipe("empty-text", "the query is empty", "", span)
    for name in names_in(text):
        if name not in settings.parameters:
            close = nearest(name, settings.parameters)
            raise wrong_recipe(
                "unknown-parameter",
                f"the query needs a value for :{name}, and the recipe has no parameter of this name",
                (f"Nearest: {close[0]}. " if close else "") + f"Write parameter {name} = … in the recipe.",
                span,
            )
    return Query(text, {name: settings.parameters[name] for name in names_in(text)})
