"""The formats that the program knows. A format is one line here; its module is imported when it is met."""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from pathlib import Path

from mangler.formats.compression import ENDINGS
from mangler.formats.contract import Format, ReadRequest, Sink, Source
from mangler.formats.location import open_location
from mangler.language.mistake import wrong_recipe
from mangler.language.source import SourceSpan
from mangler.table.settings import WriteSettings

MODULES = ("mangler.formats.delimited.format",)
"""Each has its format as FORMAT. What no other format recognises is read as the first one."""
HEAD_SIZE = 512
"""Bytes by which a format is recognised."""
_formats: list[Format] = []


def formats() -> list[Format]:
    """All formats; the list can be added to."""
    if not _formats:
        _formats.extend(import_module(name).FORMAT for name in MODULES)
    return _formats


def open_source(path: str, request: ReadRequest | None = None) -> Source:
    """Opens the extract at `path`, `-` for standard input, with the format that recognises it."""
    request = request or ReadRequest()
    location = open_location(path, request.digest)
    try:
        first, *others = formats()
        head = location.head(HEAD_SIZE) if others else b""
        chosen = next((one for one in others if one.recognises(head)), first)
        _refuse_clauses("read", request.settings.spans, chosen.read_clauses, location.name, chosen)
        return chosen.open(location, request)
    except BaseException:
        location.close()
        raise


def format_of(source: Source, path: Path | None) -> Format:
    """The format of an output: its name's ending says it; otherwise it is that of the extract."""
    ending = "" if path is None else (path.with_suffix("") if path.suffix in ENDINGS else path).suffix.lower()
    named = next((one for one in formats() if ending in one.suffixes), None)
    return named or next(one for one in formats() if one.name == source.details["format"])


def sink_for(source: Source, path: Path | None, rehearse: bool, settings: WriteSettings) -> Sink:
    """An output at a path for what is cleaned of a source; None: standard output."""
    chosen = format_of(source, path)
    name = "the output" if path is None else str(path)
    _refuse_clauses("write", settings.spans, chosen.write_clauses, name, chosen)
    return chosen.sink(path, rehearse)


def _refuse_clauses(
    verb: str, spans: Mapping[str, SourceSpan], known: frozenset[str], name: str, chosen: Format
) -> None:
    """Refuses a clause that means nothing for a format."""
    for clause in sorted(set(spans) - known):
        raise wrong_recipe(
            "clause-without-effect",
            f"{name} is {chosen.name}, and {verb} {clause} says nothing about that",
            f"Leave the clause out of {verb}.",
            spans[clause],
        )
