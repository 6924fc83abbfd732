"""The formats that the program knows. A format is one line here; its module is imported when it is met."""

from __future__ import annotations

from importlib import import_module
from pathlib import Path

from mangler.formats.compression import ENDINGS
from mangler.formats.contract import Format, ReadRequest, Sink, Source
from mangler.formats.location import open_location
from mangler.language.mistake import wrong_recipe

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
        unknown = request.settings.clauses - chosen.read_clauses
        if unknown:
            raise wrong_recipe(
                "clause-without-effect",
                f"{location.name} is {chosen.name}, and read {min(unknown)} says nothing about that",
                "Leave the clause out of read.",
                request.settings.spans.get(min(unknown)),
            )
        return chosen.open(location, request)
    except BaseException:
        location.close()
        raise


def format_of(source: Source, path: Path | None) -> Format:
    """The format of an output: its name's ending says it; otherwise it is that of the extract."""
    ending = "" if path is None else (path.with_suffix("") if path.suffix in ENDINGS else path).suffix.lower()
    named = next((one for one in formats() if ending in one.suffixes), None)
    return named or next(one for one in formats() if one.name == source.details["format"])


def sink_for(source: Source, path: Path | None, rehearse: bool) -> Sink:
    """An output at a path for what is cleaned of a source; None: standard output."""
    return format_of(source, path).sink(path, rehearse)
