"""Compressed files: known by their content when read, by their name's ending when written."""

from __future__ import annotations

import bz2
import gzip
import lzma
import zlib
from collections.abc import Callable
from hashlib import blake2b
from typing import Any, Protocol, cast

from mangler.language.mistake import file_trouble

MAGIC = {b"\x1f\x8b": "gzip", b"BZh": "bzip2", b"\xfd7zXZ\x00": "xz", b"\x28\xb5\x2f\xfd": "zstd"}
ENDINGS = {".gz": "gzip", ".bz2": "bzip2", ".xz": "xz", ".zst": "zstd"}
LONGEST_MAGIC = max(map(len, MAGIC))


class ByteStream(Protocol):
    """What an extract's bytes come from."""

    def read(self, size: int, /) -> bytes | None: ...

    def close(self) -> None: ...


class CountedStream:
    """A stream that knows how many bytes were read of it, with some put back in front."""

    def __init__(self, stream: ByteStream, digests: bool = False) -> None:
        self._stream = stream
        self._front = b""
        self.position = 0
        self.ended = False
        """Whether the stream was read to its end."""
        self._digest = blake2b(digest_size=16) if digests else None

    def digest(self) -> str | None:
        """That of all bytes; None where it was not asked for, or not all were read."""
        return self._digest.hexdigest() if self._digest and self.ended else None

    def _next(self, size: int) -> bytes:
        piece = self._stream.read(size) or b""
        self.ended = self.ended or not piece
        if self._digest is not None:
            self._digest.update(piece)
        return piece

    def peek(self, size: int) -> bytes:
        """The next bytes, which stay to be read; fewer at the end."""
        while len(self._front) < size and (piece := self._next(size - len(self._front))):
            self._front += piece
        return self._front[:size]

    def read(self, size: int = -1, /) -> bytes:
        if self._front:
            front, self._front = self._front, b""
            if 0 <= size < len(front):
                front, self._front = front[:size], front[size:]
            self.position += len(front)
            return front
        piece = self._next(size if size >= 0 else 1 << 20)
        self.position += len(piece)
        return piece

    def close(self) -> None:
        self._stream.close()

    # What the standard library's readers ask of a file.

    closed = False

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return False


class Decompressed:
    """The content of a compressed stream."""

    def __init__(self, stream: CountedStream, kind: str, name: str) -> None:
        self._stream, self._kind, self._name = stream, kind, name
        self._content: ByteStream = _open(stream, kind)

    def read(self, size: int, /) -> bytes:
        try:
            return self._content.read(size) or b""
        except (OSError, EOFError, zlib.error, lzma.LZMAError, ValueError) as error:
            raise file_trouble(
                "file-damaged",
                f"{self._name} cannot be decompressed ({self._kind}): {str(error).rstrip('.').lower()}",
                "It may be damaged, or not written to its end.",
            ) from None

    def close(self) -> None:
        self._stream.close()


def kind_of(content: bytes) -> str | None:
    """How content that starts so is compressed; None for not at all."""
    return next((kind for magic, kind in MAGIC.items() if content.startswith(magic)), None)


def _open(stream: CountedStream, kind: str) -> ByteStream:
    if kind == "zstd":
        import pyarrow as pa

        return cast(ByteStream, pa.CompressedInputStream(pa.PythonFile(stream, mode="r"), "zstd"))
    openers: dict[str, Callable[[Any], Any]] = {"gzip": _gzip, "bzip2": bz2.BZ2File, "xz": lzma.LZMAFile}
    return cast(ByteStream, openers[kind](stream))


def _gzip(stream: Any) -> Any:
    return gzip.GzipFile(fileobj=stream, mode="rb")


class Compressor(Protocol):
    def compress(self, content: bytes, /) -> bytes: ...

    def flush(self) -> bytes: ...


class _ZstdFrames:
    """Each piece as a frame of its own; frames one after the other are one file."""

    def compress(self, content: bytes, /) -> bytes:
        import pyarrow as pa

        return bytes(pa.Codec("zstd").compress(content, asbytes=True)) if content else b""

    def flush(self) -> bytes:
        return b""


def compressor_for(name: str) -> Compressor | None:
    """The compressor that a file's name asks for. The same content always gives the same bytes."""
    kind = next((kind for ending, kind in ENDINGS.items() if name.lower().endswith(ending)), None)
    if kind == "gzip":
        return zlib.compressobj(6, zlib.DEFLATED, zlib.MAX_WBITS | 16)
    if kind == "bzip2":
        return bz2.BZ2Compressor()
    if kind == "xz":
        return lzma.LZMACompressor()
    return _ZstdFrames() if kind == "zstd" else None
