"""Cuts a stream of bytes into blocks of whole records, and numbers their rows."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np

from mangler.formats.delimited.records import Bytes, Positions, Quotes, find_quotes, line_ends
from mangler.language.mistake import Refusal, file_trouble

BLOCK_SIZE = 4 << 20
LARGEST_ROW = 128 << 20
"""Bytes of a row; cells of up to 64 MB are promised."""


class ByteStream(Protocol):
    """What is read of a file or of standard input."""

    def read(self, size: int, /) -> bytes | None: ...

    def readinto(self, buffer: memoryview, /) -> int | None: ...

    def close(self) -> None: ...


@dataclass(frozen=True)
class Block:
    """Whole records of an extract, as they stand.

    Record i lies at `data[starts[i]:ends[i]]`, a CR before its line feed included, and is extract row
    `first_row + i`. Empty lines are no records, but in a table of one column, where they are null.
    """

    data: bytes
    starts: Positions
    ends: Positions
    quotes: Quotes
    first_row: int
    first_line: int
    empty_lines: int
    bytes_read: int
    """Bytes of the file up to the end of this block."""
    last: bool = False
    array: Bytes = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "array", np.frombuffer(self.data, np.uint8))

    @property
    def count(self) -> int:
        return len(self.starts)

    def record(self, index: int) -> bytes:
        return self.data[self.starts[index] : self.ends[index]].removesuffix(b"\r")

    def as_read(self, row: int) -> bytes:
        return self.record(row - self.first_row)

    def line_of(self, row: int) -> int:
        before = self.array[: self.starts[row - self.first_row]]
        return self.first_line + int(np.count_nonzero(before == 10))

    def index_at(self, position: int) -> int:
        """The record that holds a byte of the block."""
        return min(int(np.searchsorted(self.ends, position)), self.count - 1)


@dataclass
class Cutter:
    """Cuts what follows the header. `head` is what has been read of it already."""

    stream: ByteStream
    head: bytes
    delimiter: bytes
    quote: int
    one_column: bool
    first_line: int
    bytes_before: int
    name: str
    block_size: int = BLOCK_SIZE
    empty_lines: int = 0
    ends_with_line_end: bool = True

    def blocks(self) -> Iterator[Block]:
        row, line, read = 1, self.first_line, self.bytes_before
        carry, ended = self.head, False
        while not ended or carry:
            if not ended:
                carry, ended = self._fill(carry)
            array = np.frombuffer(carry, np.uint8)
            quotes = find_quotes(array, self.delimiter, self.quote)
            ends = line_ends(array, quotes)
            if quotes.unclosed >= 0:
                ends = ends[: np.searchsorted(ends, quotes.unclosed)]
            if ended:
                if quotes.unclosed >= 0:
                    raise self._never_closed(array, quotes.unclosed, ends, row, line)
                if len(carry) and (not len(ends) or ends[-1] != len(carry) - 1):
                    self.ends_with_line_end = False
                    ends = np.append(ends, len(carry))
            if not len(ends):
                if len(carry) > LARGEST_ROW:
                    raise self._too_large(array, quotes, row, line)
                if ended:
                    return
                continue
            size = min(int(ends[-1]) + 1, len(carry))
            block = self._block(carry[:size], ends, quotes, row, line, read + size, ended)
            carry = carry[size:]
            row, read = row + block.count, read + size
            line += int(np.count_nonzero(array[:size] == 10))
            self.empty_lines += block.empty_lines
            yield block

    def _fill(self, carry: bytes) -> tuple[bytes, bool]:
        """What was carried over with more bytes behind it; True at the end of the stream."""
        size = max(self.block_size, len(carry)) if len(carry) >= self.block_size else self.block_size
        buffer = bytearray(len(carry) + size)
        buffer[: len(carry)] = carry
        filled = len(carry)
        with memoryview(buffer) as window:
            while filled < len(buffer):
                try:
                    got = self.stream.readinto(window[filled:])
                except OSError as error:
                    raise file_trouble(f"{self.name} cannot be read on: {error.strerror}") from None
                if not got:
                    break
                filled += got
        return bytes(memoryview(buffer)[:filled]), filled < len(buffer)

    def _block(
        self, data: bytes, ends: Positions, quotes: Quotes, row: int, line: int, read: int, last: bool
    ) -> Block:
        starts = np.empty_like(ends)
        starts[0], starts[1:] = 0, ends[:-1] + 1
        empty_lines = 0
        if not self.one_column:
            array = np.frombuffer(data, np.uint8)
            lengths = ends - starts
            filled = (lengths > 1) | ((lengths == 1) & (array[starts] != 13))
            if not filled.all():
                empty_lines = len(ends) - int(np.count_nonzero(filled))
                starts, ends = starts[filled], ends[filled]
        return Block(data, starts, ends, quotes, row, line, empty_lines, read, last)

    def _never_closed(self, array: Bytes, unclosed: int, ends: Positions, row: int, line: int) -> Refusal:
        row += len(ends)
        line += int(np.count_nonzero(array[:unclosed] == 10))
        return file_trouble(
            f"{self.name}, line {line}: the quote opened in row {row:,} is never closed",
            'Close or remove it; or, if the file uses another quote, say so: read quote "\'".',
        )

    def _too_large(self, array: Bytes, quotes: Quotes, row: int, line: int) -> Refusal:
        at = quotes.unclosed if quotes.unclosed >= 0 else 0
        line += int(np.count_nonzero(array[:at] == 10))
        reason = (
            "a quote opened there may never be closed" if at or quotes.unclosed >= 0 else "no line end comes"
        )
        return file_trouble(
            f"{self.name}, line {line}: row {row:,} is larger than {LARGEST_ROW >> 20} MB; {reason}",
            "Close or remove the quote, or name the file's own: read quote \"'\".",
        )
