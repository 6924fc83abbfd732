"""What a `write` statement makes of some rows: the first lines of a text, or the columns and types of other formats."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from mangler.formats.contract import Source
from mangler.formats.registry import format_of_output, sink_for
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps import write as write_verb
from mangler.table.batch import Batch
from mangler.table.schema import Schema, ValueType
from mangler.table.select import quote_name
from mangler.table.settings import WriteSettings
from mangler.table.stored_types import arrow_type, stored_batch

MOST_WRITTEN = 5
"""Rows that are written on trial."""
TEXTS = frozenset({"text", "jsonl", "json"})
"""Formats whose files can be read as they are."""
WITHOUT_LISTS = frozenset({"text", "workbook"})


@dataclass(frozen=True)
class Written:
    """`lines` are those of a text; of other formats one line per column: its name and its type in the file."""

    format: str
    is_text: bool
    lines: tuple[str, ...]
    remarks: tuple[str, ...]


def written(source: Source, schema: Schema, rows: Sequence[Batch], statement: Statement) -> Written:
    """The beginning of the output that a run would write, of these rows alone.

    Files by columns and compression are left out of it: they divide and pack the same lines. Whether they can be
    written as is said is checked all the same.
    """
    said = write_verb.settings(statement)
    _refuse_what_a_run_refuses(source, schema, said)
    settings = replace(said, by=(), named=(), compression=None)
    settings = replace(settings, spans={k: v for k, v in settings.spans.items() if k not in LEFT_OUT})
    chosen = format_of_output(source, None, settings)
    with tempfile.TemporaryDirectory(prefix="mangler-try-") as folder:
        path = Path(folder) / "output"
        sink, remarks = sink_for(source, path, False, replace(settings, format=next(iter(chosen.words))))
        try:
            sink.open(schema, settings, source)
            for batch in rows:
                sink.write(sink.encode(stored_batch(batch, schema)))
            sink.finish(source)
            sink.commit()
        finally:
            sink.discard()
        remarks = [*remarks, *sink.remarks(), *sink.warnings()]
        if not chosen.words & TEXTS:
            own = "workbook" not in chosen.words  # a sheet has no types of Arrow
            kinds = tuple(f"{one.name}: {arrow_type(one) if own else one.type}" for one in schema.columns)
            return Written(chosen.name, False, kinds, tuple(remarks))
        encoding = settings.encoding or source.details.get("encoding", "utf-8")
        text = path.read_bytes().decode(encoding, "replace")
    return Written(chosen.name, True, tuple(text.splitlines()), tuple(remarks))


LEFT_OUT = ("by", "named", "compression")


def _refuse_what_a_run_refuses(source: Source, schema: Schema, said: WriteSettings) -> None:
    """Opens the whole output, as a rehearsal does: nothing is written."""
    sink, _ = sink_for(source, Path("output"), True, said)
    try:
        sink.open(schema, said, source)
    finally:
        sink.discard()


def lists_not_written(source: Source, schema: Schema, statement: Statement | None) -> str:
    """Why a run could not write these columns; empty where it could."""
    lists = [column.name for column in schema.columns if column.type is ValueType.LIST]
    if not lists:
        return ""
    chosen = format_of_output(source, None, write_verb.settings(statement))
    if not chosen.words & WITHOUT_LISTS:
        return ""
    name = quote_name(lists[0])
    return (
        f'{name} is a list, and {chosen.name} has no lists: a run needs make {name} = joined({name}, "; ")'
        " after this, or another format"
    )
