"""Opens delimited text: detects its dialect, reads its header, and gives its blocks."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import cast

from mangler.formats.aside import ASIDE_COLUMNS
from mangler.formats.compression import CountedStream
from mangler.formats.contract import Explanation, ParsedBatch, Partition, ReadRequest
from mangler.formats.delimited.aside import DelimitedAsideFile
from mangler.formats.delimited.block_reader import Block, BlockReader
from mangler.formats.delimited.dialect import Dialect, find_delimiter, name_of, sample_records
from mangler.formats.delimited.head import (
    Head,
    Restarted,
    first_fields,
    from_header_line,
    is_aside,
    read_header,
)
from mangler.formats.delimited.header_names import column_names
from mangler.formats.delimited.parse import BYTE_ORDER_MARK, Parser
from mangler.formats.delimited.records import split_record
from mangler.formats.encoding import MARKS, Encoding, Transcoded, find_encoding, utf16_without_mark
from mangler.formats.location import Location
from mangler.language.mistake import file_trouble
from mangler.table.schema import Schema
from mangler.table.settings import ReadSettings

NAME = "delimited text"
SAMPLE_SIZE = 1 << 16
DELIMITER_SAMPLE = 1 << 15
MAGIC = {
    b"PK\x03\x04": "a spreadsheet or zip archive",
    b"PAR1": "a Parquet file",
    b"ARROW1": "an Arrow file",
    b"%PDF": "a PDF",
    b"SQLite format 3": "an SQLite database",
    b"\xd0\xcf\x11\xe0": "an old spreadsheet",
}


@dataclass(frozen=True)
class Sample:
    """The first bytes from the header on; `complete` where they are the whole file."""

    content: bytes
    complete: bool


@dataclass(frozen=True)
class DelimitedSource:
    """An opened extract of delimited text."""

    name: str
    schema: Schema
    dialect: Dialect
    detected: Mapping[str, str]
    details: Mapping[str, str]
    settings: ReadSettings
    sample: Sample
    parser: Parser
    reader: BlockReader
    location: Location

    def partitions(self) -> Iterator[Block]:
        return self.reader.blocks()

    def read(self, partition: Partition) -> ParsedBatch:
        return self.parser.parse(cast(Block, partition))

    @property
    def ends_with_line_end(self) -> bool:
        """Known once all blocks are read."""
        return self.reader.ends_with_line_end

    def explain_missing(self) -> Explanation | None:
        """Whether another delimiter than the recipe's fits the file better."""
        settings, sample, count = self.settings, self.sample, len(self.schema.columns)
        if settings.delimiter is None:
            return None
        other = find_delimiter(sample.content, settings.quote, sample.complete)
        if other is None or other == settings.delimiter:
            return None
        width = len(sample_records(sample.content, other, settings.quote, sample.complete)[0])
        if width <= count:
            return None
        columns = "1 column" if count == 1 else f"{count} columns"
        return Explanation(
            f"the header of the extract has {columns} when it is split at {name_of(settings.delimiter)},"
            f" and {width} when it is split at {name_of(other)}",
            "If the extract is to be read as it is, leave the delimiter out of read, and it is found out.",
            "delimiter",
            replace(settings, delimiter=None),
        )

    def remarks(self) -> list[str]:
        found = []
        if count := self.reader.empty_lines:
            found.append(f"{count:,} {'empty line' if count == 1 else 'empty lines'} passed over: no rows")
        if count := self.reader.comments:
            found.append(f"{count:,} {'comment line' if count == 1 else 'comment lines'} passed over")
        return found

    def digest(self) -> str | None:
        return self.location.raw.digest()

    def aside_file(self, path: Path | None) -> DelimitedAsideFile:
        return DelimitedAsideFile(
            path, self.name, self.schema.names, self.dialect, from_aside=self.parser.from_aside
        )

    def close(self) -> None:
        self.location.close()


def open_delimited(location: Location, request: ReadRequest) -> DelimitedSource:
    """Opens delimited text up to the end of its header."""
    name, settings = location.name, request.settings
    head = Head(location.content, name)
    head.fill(SAMPLE_SIZE)
    _refuse_other_content(head)
    from_aside = is_aside(head.content)
    if from_aside:
        settings = _as_written_by_us(settings)
    encoding = _encoding(head, settings)
    head, transcoded = _transcoded(head, location.content, encoding)
    mark = head.content.startswith(BYTE_ORDER_MARK)
    start = len(BYTE_ORDER_MARK) if mark else 0
    for _ in range(settings.skip):
        start = head.line_end(start, "skip") + 1
    detected: dict[str, str] = {}
    content = from_header_line(head.content[start:], settings.header_row, settings.comment.encode())
    sample = Sample(content[:DELIMITER_SAMPLE], head.ended and len(content) <= DELIMITER_SAMPLE)
    delimiter = settings.delimiter or _detected_delimiter(sample, settings, detected)
    dialect = Dialect(
        delimiter, settings.quote, "\n", mark and encoding.is_utf8, settings.escape, settings.comment
    )
    if settings.header_row:
        header, start, line_end = read_header(head, start, settings, dialect.spelling)
        fields = split_record(header, dialect.spelling)
    else:
        fields, line_end = first_fields(head, start, dialect.spelling)
    if from_aside:
        fields = fields[len(ASIDE_COLUMNS) :]
    dialect = replace(dialect, line_end=line_end)
    names = column_names(fields, settings, name)
    detected["line ends"] = "CRLF" if line_end == "\r\n" else "LF"
    if settings.encoding is None:
        detected["encoding"] = encoding.name
    if location.compression:
        detected["compression"] = location.compression
    reader = BlockReader(
        transcoded or location.content,
        head.content[start:],
        dialect.spelling,
        one_column=len(names) + len(ASIDE_COLUMNS) * from_aside == 1,
        first_line=head.content[:start].count(b"\n") + 1,
        name=name,
        position=lambda: location.raw.position,
        trouble=lambda: (transcoded.trouble, transcoded.advice) if transcoded else ("", ""),
        block_size=request.partition_size,
        skip_last=settings.skip_last,
        ends_with_line_end=not settings.header_row or head.content[:start].endswith(b"\n"),
    )
    parser = Parser(names, dialect, settings.nulls, settings.ragged == "pad", name, from_aside, request.rows)
    details = {
        "format": NAME,
        "delimiter": delimiter,
        "encoding": request.settings.encoding or detected.get("encoding", ""),
    }
    schema = Schema.of_text(names)
    return DelimitedSource(
        name, schema, dialect, detected, details, settings, sample, parser, reader, location
    )


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
        encoding="utf-8",
        skip=0,
        skip_last=0,
        header_row=1,
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


def _detected_delimiter(sample: Sample, settings: ReadSettings, detected: dict[str, str]) -> str:
    """The delimiter that the sample shows; a comma where it shows none."""
    delimiter = find_delimiter(sample.content, settings.quote, sample.complete)
    detected["delimiter"] = name_of(delimiter) if delimiter else "none found: one column"
    return delimiter or ","


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
                f"{head.name} has no byte order mark, and the order of its bytes cannot be told",
                'Name it in the recipe: read encoding "utf-16-le" or read encoding "utf-16-be".',
            )
        return Encoding(order)
    return Encoding(settings.encoding, mark if settings.encoding.startswith("utf-16") else b"")
