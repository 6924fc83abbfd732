"""Text whose lines end in CR alone, as text whose lines end in LF."""

from __future__ import annotations

from mangler.formats.compression import ByteStream
from mangler.language.mistake import file_trouble


class ReturnsAsLineEnds:
    """A stream with an LF in the place of each CR. It may hold no LF of its own: then a CR could be data."""

    def __init__(self, stream: ByteStream, name: str) -> None:
        self._stream, self._name = stream, name
        self._lines = 0

    def read(self, size: int, /) -> bytes:
        piece = self._stream.read(size) or b""
        self._lines += piece.count(b"\r")
        if b"\n" in piece:
            raise file_trouble(
                "line-ends",
                f"{self._name}: its first lines end in CR alone, and an LF is on line {self._lines + 1:,} or before",
                "Convert its line ends to LF before reading it.",
            )
        return piece.replace(b"\r", b"\n")

    def close(self) -> None:
        self._stream.close()
