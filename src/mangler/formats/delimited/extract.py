"""Opens delimited text: finds out its dialect, reads its header, and gives its blocks."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import cast

import numpy as np

from mangler.file_names import readable
from mangler.formats.compression import LONGEST_MAGIC, ByteStream, CountedStream, Decompressed, kind_of
from mangler.formats.delimited.blocks import BLOCK_SIZE, LARGEST_ROW, Block, Cutter
from mangler.formats.delimited.dialect import Dialect, find_delimiter, name_of, sample_records
from mangler.formats.delimited.header_names import column_names, refuse_too_many
from mangler.formats.delimited.parse import ASIDE_COLUMNS, BYTE_ORDER_MARK, Parser
from mangler.formats.delimited.records import RETURN, Spelling, find_marks, split_record
from mangler.formats.encoding import MARKS, Encoding, Transcoded, find_encoding, utf16_without_mark
from mangler.formats.standard_input import StandardInput
from mangler.kernels import bits
from mangler.language.mistake import extract_does_not_fit, file_trouble, reason
from mangler.table.settings import ReadSettings

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


@dataclass
class Extract:
    """An opened extract: its columns are known, its rows are not read yet."""

    name: str
    names: tuple[str, ...]
    dialect: Dialect
    size: int | None
    """Bytes of the whole file; None where that cannot be known."""
    found_out: dict[str, str]
    """What the recipe did not say, in words for the summary."""
    parser: Parser
    cutter: Cutter
    hint: Callable[[], str]
    """Says what may be wrong with the way the header was read; nothing when all seems right."""
    from_aside: bool
    stream: ByteStream
    digest: Callable[[], str | None]
    """That of the file's bytes, once all were read and if it was asked for."""

    def blocks(self) -> Iterator[Block]:
        return self.cutter.blocks()

    @property
    def ends_with_line_end(self) -> bool:
        """Known once all blocks are read."""
        return self.cutter.ends_with_line_end

    def close(self) -> None:
        self.stream.close()


def open_extract(
    path: str,
    settings: ReadSettings,
    block_size: int = BLOCK_SIZE,
    rows: int | None = None,
    digests: bool = False,
) -> Extract:
    """Opens the file at `path`, `-` for standard input, up to the end of its header.

    `rows` is how many of its rows are wanted, None for all. With `digests` its bytes are digested as they are read.
    """
    name = "(standard input)" if path == "-" else readable(path)
    stream, size = _open(path)
    try:
        return _read_head(stream, name, size, settings, block_size, rows, digests)
    except BaseException:
        stream.close()
        raise


def _open(path: str) -> tuple[ByteStream, int | None]:
    if path == "-":
        return StandardInput(), None
    file = Path(path)
    try:
        if file.is_dir():
            raise file_trouble(f"{path} is a folder", f"Name the files in it: {path.rstrip('/')}/*.csv")
        stream = file.open("rb", buffering=0)
        return cast(ByteStream, stream), (file.stat().st_size if file.is_file() else None)
    except FileNotFoundError:
        raise file_trouble(f"{path} does not exist", _like_named(file)) from None
    except OSError as error:
        raise file_trouble(f"{path} cannot be opened: {reason(error)}") from None
    except ValueError:
        raise file_trouble(f"{path!r} holds a NUL, and no file has a name like this") from None


def _like_named(file: Path) -> str:
    from mangler.language.mistake import nearest

    try:
        close = nearest(file.name, (other.name for other in file.parent.iterdir()))
    except OSError:
        return f"The folder {file.parent} does not exist either."
    return f"Nearest in its folder: {close[0]}." if close else ""


def _read_head(
    stream: ByteStream,
    name: str,
    size: int | None,
    settings: ReadSettings,
    block_size: int,
    rows: int | None,
    digests: bool,
) -> Extract:
    counted = CountedStream(stream, digests)
    packed = kind_of(counted.peek(LONGEST_MAGIC))
    content: ByteStream = Decompressed(counted, packed, name) if packed else counted
    head = _Head(content, name)
    head.fill(SAMPLE_SIZE)
    if not head.content.removeprefix(BYTE_ORDER_MARK):
        raise file_trouble(f"{name} is empty", "It has not even a header; was it written to its end?")
    for magic, kind in MAGIC.items():
        if head.content.startswith(magic):
            raise file_trouble(
                f"{name} is {kind}, not delimited text", "Export it as delimited text in UTF-8."
            )
    from_aside = _is_aside(head.content)
    if from_aside:  # Mangler's own file: UTF-8 with a header, whatever the recipe says of extracts
        settings = replace(
            settings,
            encoding="utf-8",
            skip=0,
            skip_last=0,
            header_row=1,
            called=None,
            comment="",
            ragged="aside",
        )
    encoding = _encoding(head, settings)
    transcoded = None
    if not encoding.is_utf8:
        transcoded = Transcoded(Restarted(head.content, content), encoding)
        head = _Head(transcoded, name)
        head.fill(SAMPLE_SIZE)
        if transcoded.trouble and b"\n" not in head.content:
            line = f"{name}, line 1: its header holds {transcoded.trouble}"
            raise file_trouble(line, transcoded.advice)
    if b"\0" in head.content:
        raise file_trouble(f"{name} is binary: it holds NUL bytes", "Export it as delimited text in UTF-8.")
    mark = head.content.startswith(BYTE_ORDER_MARK)
    start = len(BYTE_ORDER_MARK) if mark else 0
    for _ in range(settings.skip):
        start = head.line_end(start, "skip") + 1
    found_out: dict[str, str] = {}
    delimiter = settings.delimiter
    sample = _from_header_line(head.content[start:], settings.header_row, settings.comment.encode())
    if delimiter is None:
        short = sample[:DELIMITER_SAMPLE]
        delimiter = find_delimiter(short, settings.quote, head.ended and len(short) == len(sample))
        if delimiter is None:
            delimiter = ","
            found_out["delimiter"] = "none found: one column"
        else:
            found_out["delimiter"] = name_of(delimiter)
    mark = mark and encoding.is_utf8
    dialect = Dialect(delimiter, settings.quote, "\n", mark, settings.escape, settings.comment)
    if settings.header_row:
        header, start, line_end = _header(head, start, settings, dialect.spelling)
        fields = split_record(header, dialect.spelling)
    else:
        fields, line_end = _first_fields(head, start, dialect.spelling)
    if from_aside:
        fields = fields[len(ASIDE_COLUMNS) :]
    found_out["line ends"] = "CRLF" if line_end == "\r\n" else "LF"
    if settings.encoding is None:
        found_out["encoding"] = encoding.name
    if packed:
        found_out["compression"] = packed
    names = column_names(fields, settings, name)
    dialect = replace(dialect, line_end=line_end)
    rest = head.content[start:]
    first_line = head.content[:start].count(b"\n") + 1
    cutter = Cutter(
        transcoded or content,
        rest,
        dialect.spelling,
        one_column=len(names) + len(ASIDE_COLUMNS) * from_aside == 1,
        first_line=first_line,
        name=name,
        position=lambda: counted.position,
        trouble=lambda: (transcoded.trouble, transcoded.advice) if transcoded else ("", ""),
        block_size=block_size,
        skip_last=settings.skip_last,
        ends_with_line_end=not settings.header_row or head.content[:start].endswith(b"\n"),
    )
    parser = Parser(names, dialect, settings.nulls, settings.ragged == "pad", name, from_aside, rows)
    hint = partial(
        _hint, sample[:DELIMITER_SAMPLE], head.ended and len(sample) <= DELIMITER_SAMPLE, settings, names
    )
    return Extract(
        name, names, dialect, size, found_out, parser, cutter, hint, from_aside, stream, counted.digest
    )


def _encoding(head: _Head, settings: ReadSettings) -> Encoding:
    if settings.encoding is None:
        return find_encoding(head.content, head.ended)
    mark = next((mark for mark in MARKS if head.content.startswith(mark)), b"")
    if settings.encoding in ("utf-8", "utf-8-sig"):
        return Encoding("utf-8", mark if mark == BYTE_ORDER_MARK else b"")
    if settings.encoding == "utf-16" and not mark:
        order = utf16_without_mark(head.content[:4096])
        if order == "utf-8":
            raise file_trouble(
                f"{head.name} has no byte order mark, and the order of its bytes cannot be told",
                'Name it in the recipe: read encoding "utf-16-le" or read encoding "utf-16-be".',
            )
        return Encoding(order)
    return Encoding(settings.encoding, mark if settings.encoding.startswith("utf-16") else b"")


class Restarted:
    """A stream from its start again, of which some bytes were read already."""

    def __init__(self, front: bytes, rest: ByteStream) -> None:
        self._front, self._rest = front, rest

    def read(self, size: int, /) -> bytes:
        if self._front:
            front, self._front = self._front, b""
            return front
        return self._rest.read(size) or b""

    def close(self) -> None:
        self._rest.close()


class _Head:
    """The first bytes of a stream, as many as the header takes."""

    def __init__(self, stream: ByteStream, name: str) -> None:
        self.stream, self.name = stream, name
        self.content = b""
        self.ended = False

    def fill(self, size: int) -> None:
        """Reads on until there are `size` bytes or the stream ends."""
        pieces, have = [self.content], len(self.content)
        while have < size and not self.ended:
            try:
                piece = self.stream.read(size - have)
            except OSError as error:
                raise file_trouble(f"{self.name} cannot be read: {reason(error)}") from None
            if not piece:
                self.ended = True
            else:
                pieces.append(piece)
                have += len(piece)
        self.content = b"".join(pieces)

    def line_end(self, start: int, what: str) -> int:
        """Where the physical line that starts here ends."""
        while (at := self.content.find(b"\n", start)) < 0:
            if self.ended or len(self.content) > LARGEST_ROW:
                raise extract_does_not_fit(
                    f"{self.name} has fewer lines than {what} passes over", "Lower the number in read."
                )
            self.fill(2 * len(self.content))
        return at

    def _is_comment(self, start: int, spelling: Spelling) -> bool:
        return bool(spelling.comment) and self.content.startswith(spelling.comment, start)

    def records(self, start: int, count: int, spelling: Spelling) -> list[tuple[int, int]]:
        """Start and end of the first `count` records that are no comments; fewer where there are no more."""
        while True:
            data = np.frombuffer(self.content, np.uint8)[start:]
            marks = find_marks(data, spelling)
            ends = bits.positions(marks.line_ends)
            if marks.unclosed >= 0:
                ends = ends[: np.searchsorted(ends, marks.unclosed)]
            bounds, here = [], start
            for end in (ends + start).tolist():
                if self.content[here:end].strip(b"\r") and not self._is_comment(here, spelling):
                    bounds.append((here, end))
                here = end + 1
                if len(bounds) == count:
                    return bounds
            if self.ended and marks.unclosed >= 0:
                line = self.content.count(b"\n", 0, start + marks.unclosed) + 1
                raise file_trouble(
                    f"{self.name}, line {line}: the quote opened in its header is never closed",
                    'Close or remove it; or, if the file uses another quote, say so: read quote "\'".',
                )
            if self.ended:
                if here < len(self.content) and not self._is_comment(here, spelling):
                    bounds.append((here, len(self.content)))
                return bounds
            if len(self.content) > LARGEST_ROW:
                raise file_trouble(
                    f"{self.name}: its header is larger than {LARGEST_ROW >> 20} MB",
                    "No line end comes, or a quote in the header is never closed.",
                )
            self.fill(2 * len(self.content))


def _header(head: _Head, start: int, settings: ReadSettings, spelling: Spelling) -> tuple[bytes, int, str]:
    """The header record, where the rows start, and the line end that closes it."""
    bounds = head.records(start, settings.header_row, spelling)
    if len(bounds) < settings.header_row:
        raise extract_does_not_fit(
            f"{head.name} has {len(bounds)} rows, and its header should be row {settings.header_row}",
            "Lower the number in read header row.",
        )
    begin, end = bounds[-1]
    header = head.content[begin:end]
    if b"\n" not in head.content and head.ended and _has_bare_return(header, spelling):
        raise file_trouble(
            f"{head.name} ends its lines with CR alone",
            "Convert its line ends to LF or CRLF before reading it.",
        )
    line_end = "\r\n" if header.endswith(b"\r") else "\n"
    return header.removesuffix(b"\r"), min(end + 1, len(head.content)), line_end


def _has_bare_return(record: bytes, spelling: Spelling) -> bool:
    """Whether a CR is outside quotes; one inside quotes is part of a name."""
    data = np.frombuffer(record, np.uint8)
    returns = np.flatnonzero(data == RETURN)
    return not bool(find_marks(data, spelling).quoted(returns).all())


def _first_fields(head: _Head, start: int, spelling: Spelling) -> tuple[list[bytes], str]:
    """Without a header, columns are numbered; the first row says how many there are."""
    bounds = head.records(start, 1, spelling)
    if not bounds:
        raise file_trouble(f"{head.name} holds no rows", "Without a header, at least one row is needed.")
    record = head.content[slice(*bounds[0])]
    count = len(split_record(record.removesuffix(b"\r"), spelling))
    refuse_too_many(count, head.name)
    fields = [f"column_{number}".encode() for number in range(1, count + 1)]
    return fields, "\r\n" if record.endswith(b"\r") else "\n"


def _is_aside(content: bytes) -> bool:
    """Whether the first columns are those that Mangler puts in front of rows set aside."""
    content = content.removeprefix(BYTE_ORDER_MARK)  # an editor may have put one there
    after_first = content.removeprefix(ASIDE_COLUMNS[0].encode())
    for width in (1, 2, 3, 4):  # bytes of a delimiter
        delimiter = after_first[:width]
        if content.startswith(b"".join(column.encode() + delimiter for column in ASIDE_COLUMNS)):
            return True
    return False


def _from_header_line(content: bytes, header_row: int, comment: bytes) -> bytes:
    """The content from the line on which the header is likely to stand, one line a row."""
    while comment and content.startswith(comment):
        content = content.partition(b"\n")[2]
    for _ in range(header_row - 1):
        content = content.lstrip(b"\r\n").partition(b"\n")[2]
        if not content:
            break
    return content


def _hint(sample: bytes, complete: bool, settings: ReadSettings, names: tuple[str, ...]) -> str:
    """Whether another delimiter than the recipe's fits the file better."""
    if settings.delimiter is None:
        return ""
    other = find_delimiter(sample, settings.quote, complete)
    if other is None or other == settings.delimiter:
        return ""
    width = len(sample_records(sample, other, settings.quote, complete)[0])
    if width <= len(names):
        return ""
    columns = "1 column" if len(names) == 1 else f"{len(names)} columns"
    return (
        f"the header of the extract has {columns} when it is split at {name_of(settings.delimiter)},"
        f" and {width} when it is split at {name_of(other)}"
    )
