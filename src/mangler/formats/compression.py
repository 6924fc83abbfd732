"""Compressed files: known by their content when read, by their name's ending when written."""

from __future__ import annotations

import bz2
import gzip
import io
import lzma
import zlib
from collections.abc import Callable
from typing import Any, Protocol, cast

from mangler.kernels.content_digest import ContentDigest
from mangler.language.mistake import file_trouble

MAGIC = {b"\x1f\x8b": "gzip", b"BZh": "bzip2", b"\xfd7zXZ\x00": "xz", b"\x28\xb5\x2f\xfd": "zstd"}
ENDINGS = {".gz": "gzip", ".bz2": "bzip2", ".xz": "xz", ".zst": "zstd", ".zip": "zip"}
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
        self.digests = digests
        """Whether the bytes are digested while they are read."""
        self._digest = ContentDigest() if digests else None

    def digest(self) -> str | None:
        """That of all bytes; None where it was not asked for, or not all were read."""
        return self._digest.hexdigest() if self._digest and self.ended else None

    def drain(self) -> None:
        """Reads the rest for the digest, where that was asked for."""
        while self._digest is not None and not self.ended:
            self._next(1 << 20)

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

    def readinto(self, room: memoryview, /) -> int:
        """As `read`, and puts the bytes where they are wanted: without a copy where the stream can do that."""
        fill = getattr(self._stream, "readinto", None)
        if self._front or fill is None:
            piece = self.read(len(room))
            if len(piece) > len(room):  # a stream may give more than it was asked for
                self._front = piece[len(room) :] + self._front
                self.position -= len(piece) - len(room)
                piece = piece[: len(room)]
            room[: len(piece)] = piece
            return len(piece)
        count = int(fill(room) or 0)
        self.ended = self.ended or not count
        if self._digest is not None:
            self._digest.update(room[:count])
        self.position += count
        return count

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


EPOCH = (1980, 1, 1, 0, 0, 0)
"""The date of files in a zip file: the earliest that it has a place for, so that the same rows give the same bytes."""


class _ZipOfOne:
    """A zip file that holds one file."""

    def __init__(self, name: str) -> None:
        import zipfile

        self._pieces = _Pieces()
        self._zip = zipfile.ZipFile(self._pieces, "w", zipfile.ZIP_DEFLATED)
        info = zipfile.ZipInfo(name, EPOCH)
        info.compress_type = zipfile.ZIP_DEFLATED
        info.external_attr = 0o644 << 16
        self._file = self._zip.open(info, "w", force_zip64=True)

    def compress(self, content: bytes, /) -> bytes:
        self._file.write(content)
        return self._pieces.taken()

    def flush(self) -> bytes:
        self._file.close()
        self._zip.close()
        return self._pieces.taken()


class _Pieces(io.RawIOBase):
    """What was written since it was last asked for."""

    def __init__(self) -> None:
        self._pieces: list[bytes] = []
        self._position = 0

    def writable(self) -> bool:
        return True

    def write(self, content: Any, /) -> int:
        piece = bytes(content)
        self._pieces.append(piece)
        self._position += len(piece)
        return len(piece)

    def tell(self) -> int:
        return self._position

    def taken(self) -> bytes:
        pieces, self._pieces = self._pieces, []
        return b"".join(pieces)


def kind_of_ending(name: str) -> str | None:
    """The compression that a file's name asks for."""
    return next((kind for ending, kind in ENDINGS.items() if name.lower().endswith(ending)), None)


def compressor_for(name: str, kind: str | None = None, suffix: str = "") -> Compressor | None:
    """The compressor of this kind, or the one that a file's name asks for; `none` is no compressor.

    The same content always gives the same bytes. `suffix` is the ending of a file in a zip file whose own name has
    none.
    """
    kind = kind or kind_of_ending(name)
    if kind == "zip":
        inner = name[:-4] if name.lower().endswith(".zip") else name
        return _ZipOfOne(inner if "." in inner else f"{inner}{suffix}")
    if kind == "gzip":
        return zlib.compressobj(6, zlib.DEFLATED, zlib.MAX_WBITS | 16)
    if kind == "bzip2":
        return bz2.BZ2Compressor()
    if kind == "xz":
        return lzma.LZMACompressor()
    return _ZstdFrames() if kind == "zstd" else None
