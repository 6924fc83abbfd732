"""The first bytes of delimited text, up to the end of its header."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from mangler.formats.aside import ASIDE_COLUMNS
from mangler.formats.compression import ByteStream
from mangler.formats.delimited.block_reader import LARGEST_ROW
from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.parse import BYTE_ORDER_MARK
from mangler.formats.delimited.records import Spelling, field_text, find_marks
from mangler.formats.header_names import refuse_too_many
from mangler.kernels.text import bits
from mangler.language.mistake import extract_does_not_fit, file_trouble, reason
from mangler.late_dataclass import dataclass
from mangler.table.settings import ReadSettings

FIRST_ROWS = 50
"""The rows that show whether a header lacks a name."""


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


class Head:
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
                raise file_trouble("file-not-read", f"{self.name} cannot be read: {reason(error)}") from None
            if not piece:
                self.ended = True
            else:
                pieces.append(piece)
                have += len(piece)
        self.content = b"".join(pieces)

    def fill_lines(self, start: int, lines: int, most: int) -> None:
        """Reads on until there are so many lines from `start`, but not beyond so many bytes."""
        while not self.ended and len(self.content) < most and self.content.count(b"\n", start) < lines:
            self.fill(2 * len(self.content))

    def line_end(self, start: int, what: str) -> int:
        """Where the physical line that starts here ends."""
        while (at := self.content.find(b"\n", start)) < 0:
            if self.ended or len(self.content) > LARGEST_ROW:
                raise extract_does_not_fit(
                    "header-not-there",
                    f"{self.name} has fewer lines than {what} counts",
                    "Lower the number.",
                )
            self.fill(2 * len(self.content))
        return at

    def line_start(self, start: int, line: int) -> int:
        """Where a physical line starts, counted from 1 at `start`; it holds something."""
        for _ in range(line - 1):
            start = self.line_end(start, "read header row") + 1
        end = self.content.find(b"\n", start)
        if not self.content[start : end if end >= 0 else None].strip():
            more = len(self.content) - len(self.content[start:].lstrip())
            there = line + self.content.count(b"\n", start, more)
            message = f"{self.name}: line {line} is empty, and read header row says that the names are there"
            advice = "Lines are counted as an editor does, empty ones too."
            if more < len(self.content):
                advice += f" The next line that holds something: read header row {there}."
            raise extract_does_not_fit("header-not-there", message, advice)
        return start

    def _is_comment(self, start: int, spelling: Spelling) -> bool:
        return bool(spelling.comment) and self.content.startswith(spelling.comment, start)

    def records(
        self, start: int, count: int, spelling: Spelling, ends_well: bool = False
    ) -> list[tuple[int, int]]:
        """Start and end of the first `count` records that are no comments; fewer where there are no more.

        With `ends_well` they are for a look ahead: no more of the stream is read, and nothing is refused.
        """
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
            if ends_well and not (self.ended and marks.unclosed < 0):
                return bounds
            if self.ended and marks.unclosed >= 0:
                line = self.content.count(b"\n", 0, start + marks.unclosed) + 1
                raise file_trouble(
                    "quote-not-closed",
                    f"{self.name}, line {line}: the quote opened in its header is never closed",
                    'Close or remove it; or, if the file uses another quote, say so: read quote "\'".',
                )
            if self.ended:
                if here < len(self.content) and not self._is_comment(here, spelling):
                    bounds.append((here, len(self.content)))
                return bounds
            if len(self.content) > LARGEST_ROW:
                raise file_trouble(
                    "header-too-large",
                    f"{self.name}: its header is larger than {LARGEST_ROW >> 20} MB",
                    "No line end comes, or a quote in the header is never closed.",
                )
            self.fill(2 * len(self.content))


@dataclass(frozen=True)
class Header:
    """The fields of the header as they are spelled, where the rows start, and the line end that closes it."""

    fields: list[bytes]
    start: int
    line_end: str


def read_header(head: Head, start: int, settings: ReadSettings, dialect: Dialect) -> Header:
    """The names on the line that the settings say, or on the first one that holds something.

    Several header lines are put together: the parts of a name are separated by a space.
    """
    spelling = dialect.spelling
    if settings.header_row is not None:
        start = head.line_start(start, settings.header_row)
        # The line is the header whatever it starts with.
        spelling = replace(spelling, comment=b"")
    count = settings.header_rows
    bounds = head.records(start, count, spelling)
    if len(bounds) < count:
        what = "no line that could be its header" if count == 1 else f"fewer than {count} header lines"
        raise extract_does_not_fit(
            "header-not-there",
            f"{head.name} has {what}",
            "Lower the number in read header rows." if count > 1 else "Is it the right file?",
        )
    records = [head.content[begin:end] for begin, end in bounds]
    line_end = "\r\n" if records[-1].endswith(b"\r") else "\n"
    rows = [dialect.fields(record.removesuffix(b"\r")) for record in records]
    return Header(
        put_together(rows, dialect) if count > 1 else rows[0],
        min(bounds[-1][1] + 1, len(head.content)),
        line_end,
    )


def put_together(rows: list[list[bytes]], dialect: Dialect) -> list[bytes]:
    """One name for each column, of its names on several lines."""
    width = max(map(len, rows))
    texts = [
        [field_text(field, dialect.quote, dialect.escape).strip() for field in row]
        + [""] * (width - len(row))
        for row in rows
    ]
    for row in texts[:-1]:  # a name above reaches over the empty fields to its right
        for place in range(1, width):
            row[place] = row[place] or row[place - 1]
    names = [" ".join(dict.fromkeys(filter(None, column))) for column in zip(*texts, strict=True)]
    quote = dialect.quote
    return [f"{quote}{name.replace(quote, quote * 2)}{quote}".encode() if name else b"" for name in names]


def first_fields(head: Head, start: int, settings: ReadSettings, dialect: Dialect) -> Header:
    """Without a header, columns are numbered; the first row says how many there are, or the names that are given."""
    bounds = head.records(start, 1, dialect.spelling)
    if not bounds:
        raise file_trouble(
            "file-empty", f"{head.name} holds no rows", "Without a header, at least one row is needed."
        )
    record = head.content[slice(*bounds[0])]
    count = len(dialect.fields(record.removesuffix(b"\r")))
    if settings.widths:
        count = len(settings.widths)
    if settings.called is not None and settings.ragged == "pad" and count < len(settings.called):
        count = len(settings.called)
    refuse_too_many(count, head.name)
    fields = [f"column_{number}".encode() for number in range(1, count + 1)]
    return Header(fields, start, "\r\n" if record.endswith(b"\r") else "\n")


def lacks_first_name(head: Head, header: Header, dialect: Dialect) -> bool:
    """Whether all of the first rows have one field more than the header."""
    width = len(header.fields) + 1
    bounds = head.records(header.start, FIRST_ROWS, dialect.spelling, ends_well=True)
    counts = {len(dialect.fields(head.content[begin:end].removesuffix(b"\r"))) for begin, end in bounds}
    return counts == {width}


def is_aside(content: bytes) -> bool:
    """Whether the first columns are the ones in front of rows set aside."""
    content = content.removeprefix(BYTE_ORDER_MARK)  # an editor may have put one there
    after_first = content.removeprefix(ASIDE_COLUMNS[0].encode())
    for width in (1, 2, 3, 4):  # bytes of a delimiter
        delimiter = after_first[:width]
        if content.startswith(b"".join(column.encode() + delimiter for column in ASIDE_COLUMNS)):
            return True
    return False


def from_header_line(content: bytes, settings: ReadSettings) -> bytes:
    """The content from the line on which the header is likely to be."""
    comment = settings.comment.encode()
    if settings.header_row is not None:
        at = 0
        for _ in range(settings.header_row - 1):
            at = content.find(b"\n", at) + 1
            if not at:
                return b""
        return content[at:]
    start = _past_line_ends(content, 0)
    while comment and content.startswith(comment, start):
        end = content.find(b"\n", start)
        if end < 0:
            return b""
        start = _past_line_ends(content, end + 1)
    return content[start:]


def _past_line_ends(content: bytes, start: int) -> int:
    while content.startswith((b"\r", b"\n"), start):
        start += 1
    return start


def written_names(fields: list[bytes], settings: ReadSettings, name: str) -> list[str]:
    """The names as the header spells them."""
    try:
        return [field_text(field, settings.quote, settings.escape) for field in fields]
    except UnicodeDecodeError:
        raise file_trouble(
            "encoding", f"{name}: its header is not UTF-8", "Save the extract as UTF-8."
        ) from None
