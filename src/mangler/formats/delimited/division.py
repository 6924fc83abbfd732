"""Delimited text divided by bytes.

Ranges of bytes start behind a line feed. What a range holds depends on whether it starts inside quotes. Ranges are
surveyed as if they started outside, all at once; where the one before ends inside a quote, a range is surveyed once
more as what it is. Then each record belongs to the range that it starts in, and the number of its row is known.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import IO

import numpy as np

from mangler.formats.delimited.block_reader import LARGEST_ROW, Block, BlockReader
from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.records import LINE_FEED, Spelling, find_marks
from mangler.formats.dividing import MapOrdered, Piece
from mangler.formats.location import Location
from mangler.freed_memory import keep_freed_memory
from mangler.kernels.content_digest import BYTES as STRETCH
from mangler.kernels.content_digest import ContentDigest, products
from mangler.kernels.text import bits
from mangler.kernels.text.byte_counts import count_byte
from mangler.language.mistake import file_trouble, reason
from mangler.late_dataclass import dataclass

READ_ON = 1 << 20
"""Bytes that are read at a time to find the next line feed."""


class RowTooLargeError(Exception):
    """No line end comes: what follows would be read into memory as a whole."""


@dataclass(frozen=True)
class Range:
    """Bytes of a file to be surveyed, up to a multiple of the size; the text starts at `start` in the first of them."""

    path: str
    name: str
    number: int
    size: int
    start: int
    spelling: Spelling
    one_column: bool
    digests: bool
    inside: bool = False
    """Whether it starts inside quotes."""


@dataclass(frozen=True)
class Surveyed:
    """What is in a range. Its first record starts at `first`; -1 for none. Places count from the start."""

    start: int
    end: int
    first: int
    rows: int
    """Records that start here."""
    lines_before: int
    """Line feeds before the first record."""
    lines: int
    empty_lines: int
    comments: int
    ends_inside: bool
    ends_with_line_end: bool
    sums: bytes
    """Of the digest: those of the whole stretches of the range's own bytes."""
    rest: bytes
    """What of them is left at the end of the file."""


def survey(task: Range) -> Surveyed:
    """Counts the records of a range. Called anywhere that the file is."""
    keep_freed_memory()
    try:
        with Path(task.path).open("rb") as file:
            return _survey(task, file)
    except OSError as error:
        raise file_trouble("file-not-read", f"{task.name} cannot be read: {reason(error)}") from None


def _survey(task: Range, file: IO[bytes]) -> Surveyed:
    begin = task.number * task.size
    file.seek(begin)
    read = file.read(task.size + READ_ON)
    own = min(len(read), task.size)
    whole = own // STRETCH * STRETCH if task.digests else 0
    sums = products(memoryview(read)[:whole]).tobytes() if whole else b""
    rest = read[whole:own] if task.digests else b""
    if begin + own <= task.start:  # the header reaches beyond it
        return _nothing(begin + own, sums, rest)
    if begin <= task.start:
        cut = task.start - begin
    elif (cut := read.find(b"\n", 0, own) + 1) == 0:  # no line starts here
        return _nothing(begin + own, sums, rest)
    at_end = own < task.size
    if not at_end:
        read, end, at_end = _end_of_line(read, own, file)
    else:
        end = own
    # Not a copy: it is most of what was read.
    return _counted(task, begin + cut, memoryview(read)[cut:end], at_end, sums, rest)


def _end_of_line(read: bytes, start: int, file: IO[bytes]) -> tuple[bytes, int, bool]:
    """What was read, with more behind it; where the line ends that a place is in; and whether the file ends there."""
    most = start + LARGEST_ROW
    while (found := read.find(b"\n", start)) < 0:
        start = len(read)
        if start > most:
            raise RowTooLargeError
        piece = file.read(max(READ_ON, start))
        if not piece:
            return read, start, True
        read += piece
    return read, found + 1, False


def _nothing(end: int, sums: bytes, rest: bytes) -> Surveyed:
    return Surveyed(end, end, -1, 0, 0, 0, 0, 0, False, True, sums, rest)


def _counted(task: Range, begin: int, data: memoryview, at_end: bool, sums: bytes, rest: bytes) -> Surveyed:
    end, lines = begin + len(data), count_byte(np.frombuffer(data, np.uint8), LINE_FEED)
    first = 0
    if task.inside:
        quote = bytes([task.spelling.quote])
        marks = find_marks(np.frombuffer(quote + bytes(data), np.uint8), task.spelling)
        ends = bits.positions(marks.line_ends)
        ends = ends[ends <= len(data)]
        if not len(ends):
            inside = marks.unclosed >= 0
            ends_well = bytes(data[-1:]) == b"\n"
            return Surveyed(begin, end, -1, 0, lines, lines, 0, 0, inside, ends_well, sums, rest)
        first = int(ends[0])  # one more for the line feed, one less for the quote in front
    body = data[first:]
    marks = find_marks(np.frombuffer(body, np.uint8), task.spelling)
    inside = marks.unclosed >= 0
    size = len(body) if at_end and not inside else marks.whole_records(len(body))
    rows, empty_lines, comments = marks.counts(size, bytes(body[max(0, size - 2) : size]), task.one_column)
    return Surveyed(
        begin,
        end,
        begin + first if len(body) else -1,
        rows + inside,
        count_byte(np.frombuffer(data[:first], np.uint8), LINE_FEED),
        lines,
        empty_lines,
        comments,
        inside,
        bytes(data[-1:]) == b"\n",
        sums,
        rest,
    )


class _Stretch:
    """The bytes of a file from one place to another, as a stream."""

    def __init__(self, path: Path, start: int, end: int) -> None:
        self._file = path.open("rb")
        self._file.seek(start)
        self.left = end - start

    def read(self, size: int, /) -> bytes:
        piece = self._file.read(min(size, self.left))
        self.left -= len(piece)
        return piece

    def close(self) -> None:
        self._file.close()


@dataclass(frozen=True)
class TextDivision:
    """The division of an opened extract of text."""

    name: str
    location: Location
    dialect: Dialect
    reader: BlockReader
    data_start: int
    known: None = None
    """Whoever opens it too finds the same from its first bytes."""

    def why_not(self) -> str:
        """Why the text cannot be entered in the middle; empty where it can."""
        location = self.location
        if location.packed_in:
            return f"a file in a {location.packed_in} archive cannot be entered in the middle"
        if location.compression:
            return f"{location.compression} cannot be entered in the middle"
        if location.path is None:
            return "what comes through a pipe comes once"
        if self.data_start < 0:
            return "its encoding or its line ends are changed while it is read"
        if self.dialect.escape:
            return "with an escape character a line end may be part of a cell"
        return "rows at its end are skipped" if self.reader.skip_last else ""

    def most_partitions(self, size: int) -> int:
        return size // self.reader.block_size + 16

    def pieces(self, size: int, everywhere: MapOrdered) -> Sequence[Piece] | str:
        """The pieces. Afterwards the source knows what it would have seen by reading: empty lines, its digest."""
        if why := self.why_not():
            return why
        path = self.location.path
        assert path is not None
        size = max(STRETCH, size // STRETCH * STRETCH)
        total = path.stat().st_size
        one = Range(
            str(path.absolute()), self.name, 0, size, self.data_start, self.dialect.spelling,
            self.reader.one_column, self.location.raw.digests,
        )  # fmt: skip
        ranges = [replace(one, number=number) for number in range(-(-total // size))]
        try:
            surveyed = self._surveyed(ranges, everywhere)
        except RowTooLargeError:
            return "a row is very large"  # reading it says where
        if not surveyed or surveyed[-1].ends_inside:
            return "a quote is never closed"
        return self._pieces_of(surveyed, total)

    def _surveyed(self, ranges: Sequence[Range], everywhere: MapOrdered) -> list[Surveyed]:
        """What each range holds as it is, wherever the one before it ends."""
        surveyed: list[Surveyed] = []
        for task, found in zip(ranges, everywhere(survey, ranges), strict=True):
            if surveyed and surveyed[-1].ends_inside and found.start != found.end:
                found = next(iter(everywhere(survey, [replace(task, inside=True)])))
            elif surveyed and surveyed[-1].ends_inside:  # no line starts in it
                found = replace(found, ends_inside=True)
            surveyed.append(found)
        return surveyed

    def _pieces_of(self, surveyed: Sequence[Surveyed], total: int) -> Sequence[Piece] | str:
        reader, row, line = self.reader, 1, self.reader.first_line
        pieces: list[Piece] = []
        digest = ContentDigest()
        for one in surveyed:
            if one.first >= 0 and one.rows:
                start = one.first
                pieces.append(Piece(len(pieces), start, total, row, line + one.lines_before))
            row += one.rows
            line += one.lines
            reader.empty_lines += one.empty_lines
            reader.comments += one.comments
            digest.update_with_sums(one.sums, one.rest)
        with_lines = [one for one in surveyed if one.start != one.end]
        if with_lines:
            reader.ends_with_line_end = with_lines[-1].ends_with_line_end
        ends = [*(piece.start for piece in pieces[1:]), total][: len(pieces)]
        pieces = [replace(piece, end=end) for piece, end in zip(pieces, ends, strict=True)]
        if any(piece.end - piece.start > LARGEST_ROW * 4 for piece in pieces):
            return "a row is very large"
        if self.location.raw.digests:
            self.location.known_digest = digest.hexdigest()
        return [replace(piece, is_last=piece is pieces[-1]) for piece in pieces]

    def partitions(self, piece: Piece) -> Iterator[Block]:
        assert self.location.path is not None
        stretch = _Stretch(self.location.path, piece.start, piece.end)
        reader = replace(
            self.reader,
            stream=stretch,
            head=b"",
            first_line=piece.first_line,
            first_row=piece.first_row,
            position=lambda: piece.end - stretch.left,
            trouble=lambda: ("", ""),
        )
        try:
            for block in reader.blocks():
                yield replace(block, is_last=block.is_last and piece.is_last)
        finally:
            stretch.close()
