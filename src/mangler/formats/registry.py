"""The formats that the program knows. A format is one line here; its module is imported when it is met."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from importlib import import_module
from pathlib import Path

from mangler.addresses import is_database, is_remote, name_of
from mangler.formats.compression import ENDINGS
from mangler.formats.contract import Format, ReadRequest, Sink, Source
from mangler.formats.ignored_clauses import remark
from mangler.formats.location import PART_MARK, Location, open_location, split_address
from mangler.language.mistake import Refusal, file_trouble, wrong_recipe
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass
from mangler.table.settings import WriteSettings

PARTING = frozenset({"by", "named", "files of", "table", "create", "append", "replace"})
"""The clauses of `write` that mean the same for every format, or something for databases alone."""
HEAD_SIZE = 512
"""Bytes by which a format is recognised."""
DATABASES = "mangler.formats.database"
"""The package of tables of databases, which is loaded when one is met."""
ASIDE_OF_TABLES = "rows.jsonl"
"""A name of the kind that files of rows have which were set aside of a table."""
PACKED = (b"PK", b"ustar")
"""What archives have near their start."""


@dataclass(frozen=True)
class Entry:
    """Where a format is, and what of it is known before its module is imported."""

    module: str
    words: tuple[str, ...]
    suffixes: tuple[str, ...]
    starts: tuple[bytes, ...] = ()
    """Bytes of which one is at the start of any file of it, white space aside; none: any file may be of it."""
    only_read: tuple[str, ...] = ()
    """Endings of files that are read and not written."""


ENTRIES = (
    Entry("mangler.formats.delimited.format", ("text",), (".csv", ".tsv", ".tab", ".txt", ".psv", ".dat")),
    Entry("mangler.formats.columnar.parquet", ("parquet",), (".parquet", ".pq"), (b"PAR1", b"PARE")),
    Entry("mangler.formats.columnar.arrow_file", ("arrow",), (".arrow", ".feather", ".ipc"), (b"ARROW1",)),
    Entry("mangler.formats.columnar.arrow_stream", ("arrows",), (".arrows",), (b"\xff\xff\xff\xff",)),
    Entry(
        "mangler.formats.workbook.format",
        ("workbook",),
        (".xlsx",),
        (b"PK", b"\xd0\xcf\x11\xe0"),
        (".xls", ".xlsb", ".xlsm", ".ods"),
    ),
    Entry("mangler.formats.json.lines", ("jsonl",), (".jsonl", ".ndjson"), (b"{",)),
    Entry("mangler.formats.json.array", ("json",), (".json",), (b"[",)),
)
"""Each module has its format as FORMAT. What no other format recognises is read as the first one."""
_others: list[Format] = []


def formats() -> list[Format]:
    """Formats that are added to those of the program; the list can be added to."""
    return _others


def load(entry: Entry) -> Format:
    """The format of an entry."""
    found: Format = import_module(entry.module).FORMAT
    return found


def open_source(address: str, request: ReadRequest | None = None, name: str = "") -> Source:
    """Opens the extract at `address`, `-` for standard input, with the format that recognises it.

    Behind `#` the address may name a part of the file: a sheet of a workbook, a file in an archive. Messages call it
    `name`, by default its address.
    """
    request = request or ReadRequest()
    if is_database(address):
        return _open_table(address, request, name)
    location = open_location(address, request.digest, request.memory, name)
    try:
        location = _unpacked(location)
        chosen = _format_of_content(location, request)
        _refuse_part(location, chosen)
        ignored = _ignored("read", request.settings.spans, chosen.read_clauses, chosen)
        return chosen.open(location, replace(request, ignored=ignored))
    except BaseException:
        location.close()
        raise


def _open_table(address: str, request: ReadRequest, name: str) -> Source:
    """A table of a database, or a query of it."""
    reading = import_module(f"{DATABASES}.reading")
    settings = request.settings
    place, _, table = address.partition(PART_MARK)
    if settings.format is not None:
        raise wrong_recipe(
            "other-format",
            f"{place} is a database, and no file of the format {settings.format}",
            "Leave format out of read.",
            settings.spans.get("format"),
        )
    ignored = tuple(sorted(set(settings.spans) - reading.READ_CLAUSES))
    aside = load(_entry_of_ending(Path(ASIDE_OF_TABLES)) or ENTRIES[0])
    found: Source = reading.open_table(
        place, table, replace(request, ignored=ignored), name or address, lambda to: aside.sink(to, False)
    )
    return found


def table_sink(address: str, rehearse: bool, settings: WriteSettings) -> tuple[Sink, list[str]]:
    """An output in a table of a database, and remarks."""
    writing = import_module(f"{DATABASES}.sink")
    place, _, table = address.partition(PART_MARK)
    if settings.makes_folder or settings.format is not None:
        clause = "format" if settings.format is not None else "by" if settings.by else "files of"
        raise wrong_recipe(
            "clause-without-effect",
            f"write {clause} is about files, and {place} is a database",
            "Leave it out of write, or name a file.",
            settings.spans.get(clause),
        )
    ignored = tuple(sorted(set(settings.spans) - writing.WRITE_CLAUSES))
    return writing.TableSink(place, table, rehearse), [remark("write", "of a database", ignored)] * bool(
        ignored
    )


def remote_sink(
    address: str, like: Source, rehearse: bool, settings: WriteSettings
) -> tuple[Sink, list[str]]:
    """An output in a file that is not on this machine, and remarks."""
    from mangler.formats.uploaded_sink import UploadedSink

    if settings.makes_folder:
        clause, told = ("by", "by") if settings.by else ("files of", "files of … rows")
        raise wrong_recipe(
            "several-extracts-one-file",
            f"write {told} makes several files, and those do not appear at once at {address}",
            "Write them to a folder here, and copy that.",
            settings.spans.get(clause),
        )
    if rehearse:
        return sink_for(like, Path(name_of(address)), True, settings)
    remarks: list[str] = []

    def make(file: Path) -> Sink:
        sink, said = sink_for(like, file, False, settings)
        remarks.extend(said)
        return sink

    return UploadedSink(address, make), remarks


def open_unpacked(address: str) -> Location:
    """A file, or the one in an archive, as bytes."""
    location = open_location(address)
    try:
        return _unpacked(location)
    except BaseException:
        location.close()
        raise


def parts_of(address: str) -> list[str]:
    """The names of the tables in a workbook, or of the files in an archive; none where a file is one table."""
    location = open_location(address)
    try:
        if _may_be_packed(location):
            from mangler.formats.archive import files_in, is_archive

            if is_archive(location):
                return files_in(location)
        return list(_format_of_content(location, ReadRequest()).parts(location))
    finally:
        location.close()


def ending_of(address: str) -> str:
    """The ending of files of an extract's format, for the file of its rows set aside: `.csv`, `.parquet`.

    Formats that are not written, and files that cannot be opened, have the one of delimited text.
    """
    usual = ENTRIES[0].suffixes[0]
    if is_database(address):
        return Path(ASIDE_OF_TABLES).suffix
    if (
        not is_remote(address) and not Path(split_address(address)[0]).is_file()
    ):  # what comes through a pipe comes once
        return usual
    try:
        location = open_location(address)
    except Refusal:
        return usual
    try:
        found = _format_of_content(_unpacked(location), ReadRequest())
        return found.suffixes[0] if found.is_written else usual
    except Refusal:
        return usual
    finally:
        location.close()


def _may_be_packed(location: Location) -> bool:
    head = location.head(HEAD_SIZE)
    return head.startswith(PACKED[0]) or PACKED[1] in head[257:262]


def _unpacked(location: Location) -> Location:
    """The location of the file in an archive that is meant; any other location as it is."""
    if not _may_be_packed(location):
        return location
    from mangler.formats.archive import is_archive, opened

    return opened(location) if is_archive(location) else location


def _format_of_content(location: Location, request: ReadRequest) -> Format:
    """The format that is said, or the one that recognises the content."""
    said = request.settings.format
    if said is not None:
        fitting = [load(entry) for entry in ENTRIES if said in _read_words(entry)]
        return next((one for one in fitting if one.recognises(location)), fitting[0])
    head = location.head(HEAD_SIZE)
    for other in _others:
        if other.recognises(location):
            return other
    for entry in ENTRIES[1:]:
        if head.removeprefix(b"\xef\xbb\xbf").lstrip(b" \t\r\n").startswith(entry.starts):
            found = load(entry)
            if found.recognises(location):
                return found
    return load(ENTRIES[0])


def _read_words(entry: Entry) -> tuple[str, ...]:
    """The words of `read format`: one for the two forms of a format that are distinguished by their content."""
    one = {"jsonl": "json", "arrows": "arrow"}
    return tuple(one.get(word, word) for word in entry.words)


def _refuse_part(location: Location, chosen: Format) -> None:
    if location.part and not chosen.parts(location):
        raise file_trouble(
            "no-such-part",
            f"{location.name} holds one table, in the format {chosen.name}",
            f"Name the file without #{location.part}.",
        )


def _entry_of_ending(path: Path | None) -> Entry | None:
    ending = "" if path is None else plain_path(path).suffix.lower()
    return next((entry for entry in ENTRIES if ending in entry.suffixes), None)


def is_known_ending(ending: str) -> bool:
    """Whether files with this ending are of a known format."""
    return any(ending.lower() in (*entry.suffixes, *entry.only_read) for entry in ENTRIES)


def is_only_read(path: Path) -> bool:
    """Whether a name is that of a file of a kind that is read and not written."""
    return any(path.suffix.lower() in entry.only_read for entry in ENTRIES)


def plain_path(path: Path) -> Path:
    """Without the ending of a compression."""
    return path.with_suffix("") if path.suffix.lower() in ENDINGS else path


def format_of_output(source: Source, path: Path | None, settings: WriteSettings) -> Format:
    """The format of an output: said, by its name's ending, or that of the extract where it can be written."""
    if settings.format is not None:
        return load(next(entry for entry in ENTRIES if settings.format in entry.words))
    ending = "" if path is None else plain_path(path).suffix.lower()
    named = next((one for one in _others if ending in one.suffixes), None)
    entry = _entry_of_ending(path)
    if named is None and entry is not None:
        named = load(entry)
    if named is not None:
        return named
    if path is not None and is_only_read(plain_path(path)):
        raise wrong_recipe(
            "format-not-written",
            f"files such as {path.name} are read, and not written",
            "Name it .xlsx, or another format by its ending: .parquet, .jsonl, .csv.",
        )
    own = next((one for one in _others if one.name == source.details["format"]), None)
    if own is None:
        loaded = (load(entry) for entry in ENTRIES if _is_loaded(entry))
        own = next((one for one in loaded if one.name == source.details["format"] and one.is_written), None)
    return own or load(ENTRIES[0])


def _is_loaded(entry: Entry) -> bool:
    """The format of an opened extract is loaded."""
    import sys

    return entry.module in sys.modules


def sink_for(
    source: Source, path: Path | None, rehearse: bool, settings: WriteSettings
) -> tuple[Sink, list[str]]:
    """An output at a path for what is cleaned of a source, and remarks; None: standard output."""
    chosen = format_of_output(source, path, settings)
    known = chosen.write_clauses | PARTING
    ignored = _ignored("write", settings.spans, known, chosen)
    said = remark("write", chosen.name, ignored)
    remarks = [said] * bool(ignored)
    if not settings.makes_folder:
        return chosen.sink(path, rehearse), remarks

    def make(own: Path | None) -> Sink:
        return chosen.sink(own, rehearse)

    if settings.by:
        from mangler.formats.parted_sink import PartedSink

        return PartedSink(path, rehearse, make), remarks
    if chosen.most_rows is not None and (settings.rows_per_file or 0) > chosen.most_rows:
        raise wrong_recipe(
            "too-many-rows",
            f"a sheet has a place for {chosen.most_rows:,} rows",
            f"Write files of at most {chosen.most_rows} rows.",
            settings.spans.get("files of"),
        )
    from mangler.formats.counted_files import CountedFiles

    return CountedFiles(path, rehearse, make), remarks


def _ignored(
    verb: str, spans: Mapping[str, SourceSpan], known: frozenset[str], chosen: Format
) -> tuple[str, ...]:
    """The clauses that mean nothing for a format. Beside a format that is said they are a mistake."""
    without = sorted(set(spans) - known - {"format"})
    if without and "format" in spans:
        clause = without[0]
        raise wrong_recipe(
            "clause-without-effect",
            f"{verb} {clause} means nothing for the format {chosen.name}",
            f"Leave the clause out of {verb}, or leave format out to have it ignored.",
            spans[clause],
        )
    return tuple(without)
