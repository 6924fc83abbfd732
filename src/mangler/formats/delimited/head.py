"""The first bytes of delimited text, up to the end of its header."""

from __future__ import annotations

import numpy as np

from mangler.formats.aside import ASIDE_COLUMNS
from mangler.formats.compression import ByteStream
from mangler.formats.delimited.block_reader import LARGEST_ROW
from mangler.formats.delimited.header_names import refuse_too_many
from mangler.formats.delimited.parse import BYTE_ORDER_MARK
from mangler.formats.delimited.records import RETURN, Spelling, find_marks, split_record
from mangler.kernels.text import bits
from mangler.language.mistake import extract_does_not_fit, file_trouble, reason
from mangler.table.settings import ReadSettings


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

    def line_end(self, start: int, what: str) -> int:
        """Where the physical line that starts here ends."""
        while (at := self.content.find(b"\n", start)) < 0:
            if self.ended or len(self.content) > LARGEST_ROW:
                raise extract_does_not_fit(
                    "header-not-there",
                    f"{self.name} has fewer lines than {what} passes over",
                    "Lower the number in read.",
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


def read_header(head: Head, start: int, settings: ReadSettings, spelling: Spelling) -> tuple[bytes, int, str]:
    """The header record, where the rows start, and the line end that closes it."""
    bounds = head.records(start, settings.header_row, spelling)
    if len(bounds) < settings.header_row:
        raise extract_does_not_fit(
            "header-not-there",
            f"{head.name} has {len(bounds)} rows, and its header should be row {settings.header_row}",
            "Lower the number in read header row.",
        )
    begin, end = bounds[-1]
    header = head.content[begin:end]
    if b"\n" not in head.content and head.ended and _has_bare_return(header, spelling):
        raise file_trouble(
            "line-ends",
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


def first_fields(head: Head, start: int, spelling: Spelling) -> tuple[list[bytes], str]:
    """Without a header, columns are numbered; the first row says how many there are."""
    bounds = head.records(start, 1, spelling)
    if not bounds:
        raise file_trouble(
            "file-empty", f"{head.name} holds no rows", "Without a header, at least one row is needed."
        )
    record = head.content[slice(*bounds[0])]
    count = len(split_record(record.removesuffix(b"\r"), spelling))
    refuse_too_many(count, head.name)
    fields = [f"column_{number}".encode() for number in range(1, count + 1)]
    return fields, "\r\n" if record.endswith(b"\r") else "\n"


def is_aside(content: bytes) -> bool:
    """Whether the first columns are the ones in front of rows set aside."""
    content = content.removeprefix(BYTE_ORDER_MARK)  # an editor may have put one there
    after_first = content.removeprefix(ASIDE_COLUMNS[0].encode())
    for width in (1, 2, 3, 4):  # bytes of a delimiter
        delimiter = after_first[:width]
        if content.startswith(b"".join(column.encode() + delimiter for column in ASIDE_COLUMNS)):
            return True
    return False


def from_header_line(content: bytes, header_row: int, comment: bytes) -> bytes:
    """The content from the line on which the header is likely to be, one line per row."""
    while comment and content.startswith(comment):
        content = content.partition(b"\n")[2]
    for _ in range(header_row - 1):
        content = content.lstrip(b"\r\n").partition(b"\n")[2]
        if not content:
            break
    return content
