"""Cuts a stream of bytes into blocks of whole records, and numbers their rows."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import cached_property

import numpy as np
import pyarrow as pa

from mangler.formats.compression import ByteStream
from mangler.formats.contract import PARTITION_SIZE
from mangler.formats.delimited.records import (
    LINE_FEED,
    RETURN,
    Bytes,
    Marks,
    Positions,
    Spelling,
    delimiters_in,
    find_marks,
)
from mangler.kernels.arrow import from_numpy
from mangler.kernels.text import bits
from mangler.kernels.text.byte_counts import count_byte
from mangler.kernels.text.text_view import TextArray, build
from mangler.language.mistake import Refusal, file_trouble, reason
from mangler.late_dataclass import dataclass
from mangler.table.batch import RowNumbers

LARGEST_ROW = 128 << 20
"""Bytes of a row; cells of up to 64 MB are promised."""


@dataclass(frozen=True)
class Block:
    """Whole records of an extract, as they are.

    Its records are extract rows `first_row`, `first_row + 1`, … Empty lines are no records, but in a table of
    one column, where they are null.
    """

    content: memoryview
    marks: Marks
    row_count: int
    first_row: int
    first_line: int
    empty_lines: int
    bytes_read: int
    """Bytes of the file up to the end of this block."""
    is_last: bool = False
    comments: int = 0
    """How many of its lines are comments."""
    file: str = ""
    """The extract as it was named."""
    index: int = 0
    """Its number among the blocks of its extract."""

    @property
    def has_gaps(self) -> bool:
        """Whether there is anything between its records that is no record."""
        return self.comments > 0

    @cached_property
    def data(self) -> bytes:
        """The content as bytes of its own: a copy."""
        return bytes(self.content)

    @cached_property
    def array(self) -> Bytes:
        return np.frombuffer(self.content, np.uint8)

    @property
    def nul(self) -> int:
        """Where the first NUL is; -1 for none."""
        if self.marks.nul is None:
            return self.data.find(b"\0")
        return self.marks.nul if self.marks.nul < len(self.content) else -1

    @cached_property
    def _bounds(self) -> tuple[Positions, Positions]:
        ends = bits.positions(self.marks.line_ends)
        ends = ends[ends < len(self.content)]
        if not len(ends) or ends[-1] != len(self.content) - 1:
            ends = np.append(ends, len(self.content))
        starts = np.concatenate(([0], ends[:-1] + 1))
        if self.empty_lines:
            lengths = ends - starts
            filled = (lengths > 1) | ((lengths == 1) & (self.array[starts] != RETURN))
            starts, ends = starts[filled], ends[filled]
        if self.comments:
            rows = ~np.isin(starts, self.marks.comments)
            starts, ends = starts[rows], ends[rows]
        return starts, ends

    @property
    def starts(self) -> Positions:
        """Where each record starts."""
        return self._bounds[0]

    @property
    def ends(self) -> Positions:
        """Where each record ends, a CR before its line feed included."""
        return self._bounds[1]

    def record(self, index: int) -> bytes:
        return bytes(self.content[self.starts[index] : self.ends[index]]).removesuffix(b"\r")

    def as_read(self, rows: RowNumbers) -> TextArray:
        """Extract rows as they are in the file, without their line ends."""
        if not len(rows):
            return pa.array([], pa.string())
        chosen = rows - self.first_row
        starts, ends = self.starts[chosen], self.ends[chosen]
        ends = ends - ((ends > starts) & (self.array[np.maximum(ends - 1, 0)] == RETURN))
        # Records and what is between them in turn: of these every second one is taken.
        offsets = np.stack((starts, ends), axis=1).ravel().astype(np.int32)
        both = build(self.array, np.append(offsets, offsets[-1:]), None)
        return both.take(from_numpy(np.arange(len(rows)) * 2))

    def line_of(self, row: int) -> int:
        before = self.array[: self.starts[row - self.first_row]]
        return self.first_line + int(np.count_nonzero(before == LINE_FEED))

    def locate(self, rows: RowNumbers) -> RowNumbers:
        """The lines of several rows, in one look over the block."""
        ends = np.flatnonzero(self.array == LINE_FEED)
        lines: RowNumbers = self.first_line + np.searchsorted(ends, self.starts[rows - self.first_row])
        return lines

    def field_counts(self, spelling: Spelling) -> Positions:
        """How many fields each record has."""
        counts: Positions = 1 + bits.counts_between(
            delimiters_in(self.array, spelling, self.marks), self.starts, self.ends
        )
        return counts

    def index_at(self, position: int) -> int:
        """The record that holds a byte of the block."""
        return int(self.indexes_at(np.array([position], np.intp))[0])

    def indexes_at(self, positions: Positions) -> Positions:
        """The record that holds each of these bytes of the block."""
        found: Positions = np.minimum(np.searchsorted(self.ends, positions), self.row_count - 1)
        return found


@dataclass
class BlockReader:
    """Cuts what follows the header. `head` is what has been read of it already."""

    stream: ByteStream
    head: bytes
    spelling: Spelling
    one_column: bool
    first_line: int
    name: str
    position: Callable[[], int]
    """How many bytes of the file have been read."""
    trouble: Callable[[], tuple[str, str]]
    """What ended the stream too early, and advice; nothing when it came to its end."""
    block_size: int = PARTITION_SIZE
    skip_last: int = 0
    first_row: int = 1
    empty_lines: int = 0
    comments: int = 0
    ends_with_line_end: bool = True

    def blocks(self) -> Iterator[Block]:
        row, line, index = self.first_row, self.first_line, 0
        carry, ended = memoryview(b""), False
        while not ended or carry:
            if not ended:
                carry, ended = self._fill(carry)
            array = np.frombuffer(carry, np.uint8)
            marks = find_marks(array, self.spelling)
            size = marks.whole_records(len(carry))
            if ended:
                if self.trouble()[0]:
                    raise self._undecodable(array, marks, row, line)
                if marks.unclosed >= 0:
                    raise self._never_closed(array, marks, row, line)
                if carry:
                    self.ends_with_line_end = size == len(carry)
                size = len(carry)
            whole = size
            if self.skip_last:
                size = self._before_last_rows(carry, marks, size)
                self.ends_with_line_end |= size < whole
            if not size:
                if len(carry) > LARGEST_ROW:
                    raise self._too_large(array, marks, row, line)
                if ended:
                    return
                continue
            block = self._block(carry[:size], marks, row, line, self.position(), ended)
            # A copy of what is left over: the block has the rest of the bytes for as long as it is wanted.
            carry = memoryview(b"" if ended else bytes(carry[size:]))
            row += block.row_count
            line += self._lines_in(array[:size], marks)
            self.empty_lines += block.empty_lines
            self.comments += block.comments
            if block.row_count:
                yield replace(block, index=index)
                index += 1

    def _lines_in(self, array: Bytes, marks: Marks) -> int:
        """How many lines end in so many bytes at the front of those that the marks are of."""
        if self.spelling.escape:  # among the marks are no line feeds that are escaped
            return count_byte(array, LINE_FEED)
        if marks.whole is not None and marks.whole.size == len(array):
            return marks.whole.line_feeds
        return bits.count_up_to(marks.line_feeds, len(array))

    def _before_last_rows(self, data: memoryview, marks: Marks, size: int) -> int:
        """How many of these bytes are before the last rows, which are held back or skipped."""
        probe = self._block(data[:size], marks, 1, 1, 0, False)
        if probe.row_count <= self.skip_last:
            return 0
        return int(probe.starts[probe.row_count - self.skip_last])

    def _fill(self, carry: memoryview) -> tuple[memoryview, bool]:
        """What was carried over with more bytes behind it; True at the end of the stream."""
        wanted = max(self.block_size, len(carry))
        # What was read of the file before it was cut is cut alike.
        front = self.head[:wanted]
        self.head = self.head[wanted:]
        try:
            if hasattr(self.stream, "readinto"):
                return self._filled(carry, front, wanted)
            pieces: list[bytes | memoryview] = [carry, front]
            wanted -= len(front)
            while wanted > 0 and (piece := self.stream.read(wanted)):
                pieces.append(piece)
                wanted -= len(piece)
        except OSError as error:
            raise file_trouble("file-not-read", f"{self.name} cannot be read on: {reason(error)}") from None
        return memoryview(b"".join(pieces)), wanted > 0

    def _filled(self, carry: memoryview, front: bytes, wanted: int) -> tuple[memoryview, bool]:
        """The same, of a stream that puts bytes where they are wanted: no byte is copied a second time."""
        room = np.empty(len(carry) + wanted, np.uint8).data
        filled = len(carry) + len(front)
        room[: len(carry)], room[len(carry) : filled] = carry, front
        while filled < len(room) and (count := self.stream.readinto(room[filled:])):  # type: ignore[attr-defined]
            filled += count
        return room[:filled], filled < len(room)

    def _block(self, data: memoryview, marks: Marks, row: int, line: int, read: int, last: bool) -> Block:
        rows, empty_lines, comments = marks.counts(len(data), bytes(data[-2:]), self.one_column)
        return Block(data, marks, rows, row, line, empty_lines, read, last, comments, self.name)

    def _undecodable(self, array: Bytes, marks: Marks, row: int, line: int) -> Refusal:
        row += bits.count_up_to(marks.line_ends, len(array)) - bits.count_up_to(marks.empty_lines, len(array))
        line += int(np.count_nonzero(array == LINE_FEED))
        what, advice = self.trouble()
        return file_trouble("file-damaged", f"{self.name}, line {line}: row {row:,} holds {what}", advice)

    def _never_closed(self, array: Bytes, marks: Marks, row: int, line: int) -> Refusal:
        row += bits.count_up_to(marks.line_ends, marks.unclosed) - bits.count_up_to(
            marks.empty_lines, marks.unclosed
        )
        line += int(np.count_nonzero(array[: marks.unclosed] == LINE_FEED))
        return file_trouble(
            "quote-not-closed",
            f"{self.name}, line {line}: the quote opened in row {row:,} is never closed",
            'Close or remove it; or, if the file uses another quote, say so: read quote "\'".',
        )

    def _too_large(self, array: Bytes, marks: Marks, row: int, line: int) -> Refusal:
        at = marks.unclosed if marks.unclosed >= 0 else 0
        line += int(np.count_nonzero(array[:at] == LINE_FEED))
        reason = (
            "a quote opened there may never be closed" if at or marks.unclosed >= 0 else "no line end comes"
        )
        return file_trouble(
            "row-too-large",
            f"{self.name}, line {line}: row {row:,} is larger than {LARGEST_ROW >> 20} MB; {reason}",
            "Close or remove the quote, or name the file's own: read quote \"'\".",
        )
