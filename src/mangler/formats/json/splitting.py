"""Where the objects of a file are: one per line, one after the other in any layout, or in an array."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from enum import Enum
from typing import BinaryIO

import numpy as np
import numpy.typing as npt

from mangler.kernels.text import bits
from mangler.language.mistake import Refusal, extract_does_not_fit, file_trouble
from mangler.late_dataclass import dataclass

BYTE_ORDER_MARK = b"\xef\xbb\xbf"
LARGEST_ROW = 128 << 20
"""Bytes of an object."""
BLANK = b" \t\r\n"
QUOTE, BACKSLASH, COMMA, LINE_FEED = 34, 92, 44, 10

Offsets = npt.NDArray[np.int64]


class Layout(Enum):
    LINES = "one object per line"
    VALUES = "objects one after the other"
    ARRAY = "an array of objects"


@dataclass(frozen=True)
class Piece:
    """Some objects of a file: their bytes, and where these are in it. `lines` are the lines on which they start."""

    content: bytes
    offset: int
    """Of the content, in the file."""
    starts: Offsets
    ends: Offsets
    lines: Offsets
    is_cut_off: bool = False
    """Whether the file ends with the last one, without a line end: it may not be complete."""

    def __len__(self) -> int:
        return len(self.starts)

    @property
    def texts(self) -> list[bytes]:
        """The bytes of each object."""
        starts, ends = (self.starts - self.offset).tolist(), (self.ends - self.offset).tolist()
        return [self.content[start:end] for start, end in zip(starts, ends, strict=True)]


def layout_of(head: bytes) -> Layout | None:
    """The layout of a file that starts so; None where it is no JSON of objects."""
    text = head.removeprefix(BYTE_ORDER_MARK).lstrip(BLANK)
    if text.startswith(b"["):
        inside = text[1:].lstrip(BLANK)
        return Layout.ARRAY if not inside or inside[:1] in (b"{", b"]") else None
    inside = text[1:].lstrip(BLANK)
    if not text.startswith(b"{") or (inside and inside[:1] not in (b'"', b"}")):
        return None
    first, _, rest = text.partition(b"\n")
    second = rest.lstrip(BLANK)
    is_open = first.strip(BLANK) == b"{" or (
        bool(second) and not second.startswith(b"{") and _depth(first) > 0
    )
    return Layout.VALUES if is_open else Layout.LINES


def _depth(text: bytes) -> int:
    data = np.frombuffer(text, np.uint8)
    return int(_depths(data, _inside(data))[-1]) if len(data) else 0


@dataclass(frozen=True)
class Stretch:
    """Whole lines of a file: its bytes from one place to another."""

    start: int
    end: int
    row: int = 1
    """The number of the first row in the file."""
    line: int = 1
    """The number of the first line."""


def pieces(
    file: BinaryIO, layout: Layout, size: int, name: str, stretch: Stretch | None = None
) -> Iterator[Piece]:
    """All objects of a file, or of a stretch of its lines, about so many bytes of them at a time."""
    reader: _LineReader | _ValueReader
    if layout is Layout.LINES:
        reader = _LineReader(name, 1 if stretch is None else stretch.line)
    else:
        reader = _ValueReader(name, layout is Layout.ARRAY)
    start, end = (0, None) if stretch is None else (stretch.start, stretch.end)
    file.seek(start)
    if start == 0 and file.read(len(BYTE_ORDER_MARK)) == BYTE_ORDER_MARK:
        start = len(BYTE_ORDER_MARK)
    file.seek(start)
    read = offset = start
    rest = b""
    while content := file.read(size if end is None else min(size, end - read)):
        read += len(content)
        rest += content
        piece, used = reader.take(rest, offset)
        if len(piece):
            yield piece
        rest = rest[used:]
        offset += used
        if len(rest) > LARGEST_ROW:
            raise extract_does_not_fit(
                "row-too-large",
                f"{name}, line {reader.line:,}: this object has more than {LARGEST_ROW >> 20} MB",
                "Is a bracket or a quote not closed before it?",
            )
    last = reader.finish(rest, offset)
    if len(last):
        yield last


class _LineReader:
    """Objects on lines of their own; lines of nothing but blanks are none."""

    def __init__(self, name: str, line: int) -> None:
        self.name, self.line = name, line

    def take(self, content: bytes, offset: int) -> tuple[Piece, int]:
        end = content.rfind(b"\n") + 1
        return self._piece(content[:end], offset), end

    def finish(self, content: bytes, offset: int) -> Piece:
        piece = self._piece(content, offset)
        return replace(piece, is_cut_off=bool(len(piece)))

    def _piece(self, content: bytes, offset: int) -> Piece:
        data = np.frombuffer(content, np.uint8)
        feeds = np.flatnonzero(data == LINE_FEED)
        ends = feeds if content.endswith(b"\n") or not content else np.append(feeds, len(content))
        starts = np.append(0, ends[:-1] + 1) if len(ends) else ends
        lines = np.arange(self.line, self.line + len(starts))
        self.line += len(feeds)
        if not _starts_with_braces(data, starts, ends):
            spans = zip(starts.tolist(), ends.tolist(), strict=True)
            filled = np.array([bool(content[start:end].strip(BLANK)) for start, end in spans], np.bool_)
            starts, ends, lines = starts[filled], ends[filled], lines[filled]
        return Piece(content, offset, starts + offset, ends + offset, lines)


def _starts_with_braces(data: npt.NDArray[np.uint8], starts: Offsets, ends: Offsets) -> bool:
    """Whether each line starts with one, so that none is blank."""
    return len(starts) == 0 or bool((ends > starts).all() and (data[starts] == ord("{")).all())


class _ValueReader:
    """Objects in an array, or one after the other in any layout."""

    def __init__(self, name: str, in_array: bool) -> None:
        self.name, self.line = name, 1
        self._in_array, self._is_open, self._is_closed = in_array, False, False

    def take(self, content: bytes, offset: int) -> tuple[Piece, int]:
        data = np.frombuffer(content, np.uint8)
        begun = 0
        if self._in_array and not self._is_open:
            begun = content.index(b"[") + 1
            self._is_open = True
        if self._is_closed:
            return self._after_the_end(content, 0)
        inside = _inside(data[begun:])
        depths = _depths(data[begun:], inside)
        if len(depths) and depths.min() < (-1 if self._in_array else 0):
            raise self._damaged("it closes a bracket that was not opened")
        closing = np.flatnonzero(depths < 0)
        end = begun + int(closing[0]) if len(closing) else len(content)
        if self._in_array:
            marks = (data[begun:end] == COMMA) & ~inside[: end - begun] & (depths[: end - begun] == 0)
        else:
            marks = (
                np.append(False, (depths[1:] == 0) & (depths[:-1] > 0))
                if len(depths)
                else np.zeros(0, np.bool_)
            )
        ends = np.flatnonzero(marks) + begun + (0 if self._in_array else 1)
        if len(closing):
            ends = np.append(ends, end)
            self._is_closed = True
        starts = np.append(begun, ends[:-1] + (1 if self._in_array else 0)) if len(ends) else ends
        piece = self._piece(content, starts, ends, offset, allows_none=bool(len(closing)))
        used = int(ends[-1]) + (1 if self._in_array else 0) if len(ends) else begun
        self.line += int(np.count_nonzero(data[:used] == LINE_FEED))
        if self._is_closed:
            self._after_the_end(content[used:], 0)
            used = len(content)
        return piece, used

    def _piece(self, content: bytes, starts: Offsets, ends: Offsets, offset: int, allows_none: bool) -> Piece:
        feeds = np.flatnonzero(np.frombuffer(content, np.uint8) == LINE_FEED)
        firsts, lasts = [], []
        for start, end in zip(starts.tolist(), ends.tolist(), strict=True):
            text = content[start:end].lstrip(BLANK)
            firsts.append(end - len(text))
            lasts.append(firsts[-1] + len(text.rstrip(BLANK)))
        if allows_none and firsts and firsts[-1] >= lasts[-1]:  # the array is empty, or ends with a comma
            firsts.pop()
            lasts.pop()
        begins = np.array(firsts, np.int64)
        lines = self.line + np.searchsorted(feeds, begins)
        return Piece(content, offset, begins + offset, np.array(lasts, np.int64) + offset, lines)

    def _after_the_end(self, content: bytes, used: int) -> tuple[Piece, int]:
        if content.strip(BLANK):
            raise self._damaged("something follows the end of its array")
        nothing = np.zeros(0, np.int64)
        return Piece(b"", 0, nothing, nothing, nothing), len(content) or used

    def finish(self, content: bytes, offset: int) -> Piece:  # noqa: ARG002
        if (self._in_array and not self._is_closed) or content.strip(BLANK):
            raise self._damaged("it ends in the middle of its objects")
        nothing = np.zeros(0, np.int64)
        return Piece(b"", 0, nothing, nothing, nothing)

    def _damaged(self, why: str) -> Refusal:
        return file_trouble(
            "file-damaged",
            f"{self.name} cannot be read as JSON behind line {self.line:,}: {why}",
            "It may be damaged, or not written to its end.",
        )


def _inside(data: npt.NDArray[np.uint8]) -> npt.NDArray[np.bool_]:
    """Which bytes are inside of texts."""
    quotes = data == QUOTE
    slashes = data == BACKSLASH
    if slashes.any():
        at = np.arange(len(data))
        last_other = np.maximum.accumulate(np.where(slashes, -1, at))
        runs = np.zeros(len(data), np.int64)
        runs[1:] = (at - last_other)[:-1]
        quotes = quotes & (runs % 2 == 0)
    words = bits.odd_so_far(bits.pack(quotes))
    flags = np.unpackbits(words.view(np.uint8), bitorder="little")[: len(data)]
    return flags.astype(np.bool_)


def _depths(data: npt.NDArray[np.uint8], inside: npt.NDArray[np.bool_]) -> npt.NDArray[np.int32]:
    """How many brackets are open behind each byte."""
    steps = np.zeros(len(data), np.int32)
    opens = ((data == ord("{")) | (data == ord("["))) & ~inside
    closes = ((data == ord("}")) | (data == ord("]"))) & ~inside
    steps[opens] = 1
    steps[closes] = -1
    return np.cumsum(steps, dtype=np.int32)
