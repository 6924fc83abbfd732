"""Opens delimited text: detects its encoding, dialect and layout, and reads its header."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from mangler.formats.aside import ASIDE_COLUMNS
from mangler.formats.compression import ByteStream, CountedStream
from mangler.formats.contract import ReadRequest
from mangler.formats.delimited.block_reader import BlockReader
from mangler.formats.delimited.delimiter_search import Delimiter, find_delimiter
from mangler.formats.delimited.dialect import NOWHERE, Dialect, dialect_of, name_of, spelling_of
from mangler.formats.delimited.head import (
    Head,
    Header,
    Restarted,
    first_fields,
    from_header_line,
    is_aside,
    lacks_first_name,
    read_header,
    written_names,
)
from mangler.formats.delimited.line_ends import ReturnsAsLineEnds
from mangler.formats.delimited.parse import BYTE_ORDER_MARK, Parser
from mangler.formats.delimited.records import RETURN, find_marks
from mangler.formats.delimited.source import NAME, DelimitedSource, Sample
from mangler.formats.delimited.survey import survey
from mangler.formats.encoding import MARKS, Encoding, Transcoded, find_encoding, utf16_without_mark
from mangler.formats.header_names import column_names
from mangler.formats.ignored_clauses import ignored_clauses
from mangler.formats.location import Location
from mangler.language.mistake import enumerate_names, file_trouble
from mangler.table.read_words import MOST_NAMED
from mangler.table.schema import Schema
from mangler.table.settings import ReadSettings

SAMPLE_SIZE = 1 << 16
DELIMITER_SAMPLE = 1 << 15
LARGEST_SAMPLE = 1 << 20
FEWEST_LINES = 8
"""Lines that a sample has, however long they are, if it does not grow too large."""
FEW_ROWS = 20
"""The rows that show whether every field is in quotes."""
LAYOUT = (
    "widths",
    "comment",
    "skip",
    "header_absent",
    "header_row",
    "header_rows",
    "called",
    "names_completed",
    "ragged",
)
"""The settings that a run takes from its recipe, and does not detect."""
MAGIC = {
    b"PK\x03\x04": "a spreadsheet or zip archive",
    b"PAR1": "a Parquet file",
    b"ARROW1": "an Arrow file",
    b"%PDF": "a PDF",
    b"SQLite format 3": "an SQLite database",
    b"\xd0\xcf\x11\xe0": "an old spreadsheet",
}


def open_delimited(location: Location, request: ReadRequest) -> DelimitedSource:
    """Opens delimited text up to the end of its header."""
    name, said = location.name, request.settings
    head = _first_bytes(location)
    from_aside = is_aside(head.content)
    if from_aside:
        said = _as_written_by_us(said)
    encoding = _encoding(head, said)
    head, transcoded = _transcoded(head, location.content, encoding)
    head, returns = _with_line_feeds(head, transcoded or location.content, said.quote)
    mark = head.content.startswith(BYTE_ORDER_MARK)
    start = _past_skipped(head, len(BYTE_ORDER_MARK) if mark else 0, said.skip)
    settings = _surveyed(head, start, said) if request.survey and not from_aside else said
    start = _past_skipped(head, start, settings.skip - said.skip)
    sample = _sample(head, start)
    settings = _with_delimiter(settings, sample)
    detected = _told(said, settings, sample)
    dialect = dialect_of(settings, settings.delimiter or "", mark and encoding.is_utf8)
    header = (first_fields if settings.header_absent else read_header)(head, start, settings, dialect)
    dialect = replace(dialect, line_end=header.line_end)
    fields = header.fields[len(ASIDE_COLUMNS) :] if from_aside else header.fields
    names, settings = _named(fields, head, header, settings, dialect, request.survey)
    given = _names_given(fields, names, settings, head.name) if said.called is None else ()
    detected |= {"names": f"{enumerate_names(given, 4)} given by Mangler"} if given else {}
    detected |= _bytes_told(header, bool(returns), None if said.encoding else encoding, location)
    reader = BlockReader(
        returns or transcoded or location.content,
        head.content[header.start :],
        dialect.spelling,
        one_column=len(names) + len(ASIDE_COLUMNS) * from_aside == 1,
        first_line=head.content[: header.start].count(b"\n") + 1,
        name=name,
        position=lambda: location.raw.position,
        trouble=lambda: (transcoded.trouble, transcoded.advice) if transcoded else ("", ""),
        block_size=request.partition_size,
        skip_last=settings.skip_last,
        ends_with_line_end=settings.header_absent or head.content[: header.start].endswith(b"\n"),
    )
    details = _details(head, header, dialect, settings, said.encoding or detected.get("encoding", ""))
    return DelimitedSource(
        name,
        Schema.of_text(names),
        dialect,
        detected,
        details,
        said,
        _read_as(settings, encoding),
        any(getattr(said, part) != getattr(settings, part) for part in LAYOUT),
        given,
        sample,
        _parser(names, dialect, settings, name, from_aside, request),
        reader,
        location,
        header.start if returns is None and transcoded is None else -1,
        ignored_clauses(request, NAME),
    )


def _parser(
    names: tuple[str, ...],
    dialect: Dialect,
    settings: ReadSettings,
    name: str,
    from_aside: bool,
    request: ReadRequest,
) -> Parser:
    rules = (settings.nulls, settings.ragged == "pad")
    guarded = request.settings.guard_formulas
    return Parser(names, dialect, *rules, name, from_aside, request.rows, guarded)


def _details(
    head: Head, header: Header, dialect: Dialect, settings: ReadSettings, encoding: str
) -> dict[str, str]:
    """How the text is read, as it is compared from run to run."""
    return {
        "format": NAME,
        "delimiter": "" if settings.delimiter == NOWHERE else settings.delimiter or "",
        "encoding": encoding,
        "quoting": _quoting(head, header, dialect),
    }


def _quoting(head: Head, header: Header, dialect: Dialect) -> str:
    """Whether every field of the first rows is in quotes; empty where there are none to tell."""
    bounds = head.records(header.start, FEW_ROWS, dialect.spelling, ends_well=True)
    if len(bounds) < FEW_ROWS or dialect.widths:
        return ""
    quote = dialect.quote.encode()
    records = (dialect.fields(head.content[begin:end].removesuffix(b"\r")) for begin, end in bounds)
    every = all(field.startswith(quote) for fields in records for field in fields if field)
    return "every field" if every else "where needed"


def _bytes_told(
    header: Header, returns: bool, encoding: Encoding | None, location: Location
) -> dict[str, str]:
    """In words, how the text is stored; `encoding` where it was detected."""
    told = {"line ends": "CR, read as LF" if returns else "CRLF" if header.line_end == "\r\n" else "LF"}
    if encoding is not None:
        told["encoding"] = encoding.name
    if location.compression:
        told["compression"] = location.compression
    return told


def _read_as(settings: ReadSettings, encoding: Encoding) -> ReadSettings:
    """The settings that say all that was detected; one column has no delimiter that could be said."""
    if settings.encoding is None and not encoding.is_utf8:
        settings = replace(settings, encoding=encoding.codec)
    return replace(settings, delimiter=None) if settings.delimiter == NOWHERE else settings


def _first_bytes(location: Location) -> Head:
    head = Head(location.content, location.name)
    head.fill(SAMPLE_SIZE)
    _refuse_other_content(head)
    return head


def _surveyed(head: Head, start: int, said: ReadSettings) -> ReadSettings:
    """The settings with what is detected about the place of the table."""
    sample = _sample(head, start)
    return survey(sample.content, sample.complete, said)


def _past_skipped(head: Head, start: int, lines: int) -> int:
    for _ in range(lines):
        start = head.line_end(start, "skip") + 1
    return start


def _sample(head: Head, start: int) -> Sample:
    """The bytes that show where the table is; the same for a survey and for a run, so that they agree."""
    head.fill_lines(start, FEWEST_LINES, LARGEST_SAMPLE)
    content = head.content[start : start + DELIMITER_SAMPLE]
    if content.count(b"\n") < FEWEST_LINES:
        content = head.content[start:]
    return Sample(content, head.ended and len(content) == len(head.content) - start)


def _told(said: ReadSettings, found: ReadSettings, sample: Sample) -> dict[str, str]:
    """In words, what was detected about the place of the table."""
    detected: dict[str, str] = {}
    if said.header_row is not None and _counts_more(said, sample.content):
        detected["header"] = f"on line {said.header_row}, counting the empty lines and comments above it"
    if found.widths and not said.widths:
        detected["delimiter"] = f"none: columns of a fixed width ({', '.join(map(str, found.widths))})"
    elif found.delimiter is not None and said.delimiter is None:
        none = found.delimiter.encode() not in sample.content
        detected["delimiter"] = "none found: one column" if none else name_of(found.delimiter, found.in_runs)
    if found.comment != said.comment:
        detected["comments"] = f'lines that start with "{found.comment}"'
    if found.skip != said.skip:
        detected["skipped"] = f"{found.skip} lines"
    if found.header_absent != said.header_absent:
        detected["header"] = "none: the first row looks like the others"
    elif found.header_row != said.header_row:
        detected["header"] = f"on line {found.header_row}"
    if found.ragged != said.ragged:
        detected["short rows"] = "filled up with nulls"
    if found.header_rows != said.header_rows:
        detected["header lines"] = str(found.header_rows)
    return detected


def _counts_more(said: ReadSettings, content: bytes) -> bool:
    """Whether lines above the header are empty or comments."""
    above = content.split(b"\n", said.header_row or 1)[: (said.header_row or 1) - 1]
    comment = said.comment.encode()
    return any(not line.strip() or (comment and line.startswith(comment)) for line in above)


def _named(
    fields: list[bytes],
    head: Head,
    header: Header,
    settings: ReadSettings,
    dialect: Dialect,
    surveyed: bool,
) -> tuple[tuple[str, ...], ReadSettings]:
    """The columns' names, and the settings with those that were found for columns without one."""
    completes = surveyed or settings.names_completed
    wanted = len(settings.called) if settings.called is not None else 0
    may_lack = not settings.header_absent and (completes or wanted == len(fields) + 1)
    if may_lack and lacks_first_name(head, header, dialect):
        fields = [b"", *fields]
    if not surveyed or settings.called is not None:
        return column_names(written_names(fields, settings, head.name), settings, head.name), settings
    written = written_names(fields, settings, head.name)
    names = column_names(written, replace(settings, names_completed=True), head.name)
    if settings.header_absent or list(names) == written:
        return names, settings
    if settings.names_completed or len(names) > MOST_NAMED:
        return names, replace(settings, names_completed=True)
    return names, replace(settings, called=names)


def _names_given(
    fields: list[bytes], names: tuple[str, ...], settings: ReadSettings, name: str
) -> tuple[str, ...]:
    """Names that were given to columns, because the header has none for them."""
    if settings.header_absent:
        return names if settings.called is None else ()
    written = written_names(fields, settings, name)
    written = [""] * (len(names) - len(written)) + written
    return tuple(name for name, own in zip(names, written, strict=True) if name != own)


def _refuse_other_content(head: Head) -> None:
    """Refuses an empty file, and content that is known to be something else."""
    if not head.content.removeprefix(BYTE_ORDER_MARK):
        raise file_trouble(
            "file-empty", f"{head.name} is empty", "It has not even a header; was it written to its end?"
        )
    for magic, kind in MAGIC.items():
        if head.content.startswith(magic):
            raise file_trouble(
                "other-format",
                f"{head.name} is {kind}, not delimited text",
                "Export it as delimited text in UTF-8.",
            )


def _as_written_by_us(settings: ReadSettings) -> ReadSettings:
    """A file of rows set aside: UTF-8 with a header, whatever the recipe says of extracts."""
    return replace(
        settings,
        delimiter=None,
        in_runs=False,
        widths=(),
        encoding="utf-8",
        skip=0,
        skip_last=0,
        header_absent=False,
        header_row=None,
        header_rows=1,
        called=None,
        comment="",
        ragged="aside",
    )


def _transcoded(head: Head, content: CountedStream, encoding: Encoding) -> tuple[Head, Transcoded | None]:
    """The head in UTF-8, and the stream that makes UTF-8 of the content; None where it is in UTF-8."""
    transcoded = None
    if not encoding.is_utf8:
        transcoded = Transcoded(Restarted(head.content, content), encoding)
        head = Head(transcoded, head.name)
        head.fill(SAMPLE_SIZE)
        if transcoded.trouble and b"\n" not in head.content:
            line = f"{head.name}, line 1: its header holds {transcoded.trouble}"
            raise file_trouble("encoding", line, transcoded.advice)
    if b"\0" in head.content:
        raise file_trouble(
            "not-text", f"{head.name} is binary: it holds NUL bytes", "Export it as delimited text in UTF-8."
        )
    return head, transcoded


def _with_line_feeds(head: Head, content: ByteStream, quote: str) -> tuple[Head, ReturnsAsLineEnds | None]:
    """The head with LF as its line ends, and the stream that makes them; None where there are LFs already."""
    while b"\n" not in head.content and not head.ended and len(head.content) < LARGEST_SAMPLE:
        head.fill(2 * len(head.content))
    if b"\n" in head.content or not _has_bare_return(head.content, quote):
        return head, None
    returns = ReturnsAsLineEnds(Restarted(head.content, content), head.name)
    fresh = Head(returns, head.name)
    fresh.fill(len(head.content))
    return fresh, returns


def _has_bare_return(content: bytes, quote: str) -> bool:
    """Whether a CR is outside quotes; one inside quotes is part of a cell."""
    data = np.frombuffer(content, np.uint8)
    returns = np.flatnonzero(data == RETURN)
    return not bool(find_marks(data, spelling_of(",", quote)).quoted(returns).all())


def _with_delimiter(settings: ReadSettings, sample: Sample) -> ReadSettings:
    """The settings with the delimiter that the sample shows from the header on; a comma where it shows none."""
    if settings.delimiter is not None or settings.widths:
        return settings
    content = from_header_line(sample.content, settings)
    if not sample.complete:
        content = content[: content.rfind(b"\n") + 1] or content
    found = find_delimiter(content, settings.quote, sample.complete, settings.comment.encode())
    if found is None:
        found = Delimiter(NOWHERE if b"," in content else ",")
    return replace(settings, delimiter=found.text, in_runs=found.in_runs)


def _encoding(head: Head, settings: ReadSettings) -> Encoding:
    if settings.encoding is None:
        return find_encoding(head.content, head.ended)
    mark = next((mark for mark in MARKS if head.content.startswith(mark)), b"")
    if settings.encoding in ("utf-8", "utf-8-sig"):
        return Encoding("utf-8", mark if mark == BYTE_ORDER_MARK else b"")
    if settings.encoding == "utf-16" and not mark:
        order = utf16_without_mark(head.content[:4096])
        if order == "utf-8":
            raise file_trouble(
                "encoding",
                f"{head.name} has no byte order mark, and the order of its bytes cannot be known",
                'Name it in the recipe: read encoding "utf-16-le" or read encoding "utf-16-be".',
            )
        return Encoding(order)
    return Encoding(settings.encoding, mark if settings.encoding.startswith("utf-16") else b"")
