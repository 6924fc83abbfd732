"""A file or standard input, opened for reading: its bytes as they are, unpacked, and as a file on disk."""

from __future__ import annotations

import contextlib
import os
import stat
import tempfile
from dataclasses import field
from pathlib import Path
from typing import cast

from mangler.addresses import is_remote
from mangler.file_names import readable
from mangler.formats.compression import LONGEST_MAGIC, ByteStream, CountedStream, Decompressed, kind_of
from mangler.formats.standard_input import StandardInput
from mangler.formats.temporary import not_filled
from mangler.language.mistake import file_trouble, nearest, reason
from mangler.late_dataclass import dataclass

PART_MARK = "#"
"""Between a file and a part of it: a sheet of a workbook, a file in an archive."""
SPOOL_PIECE = 1 << 20


@dataclass
class Location:
    """An opened extract, before its format is known."""

    name: str
    """As messages name it."""
    raw: CountedStream
    """The bytes as they are, counted, and digested where that was asked for."""
    content: CountedStream
    """The bytes unpacked; bytes that were looked at can still be read."""
    compression: str | None
    path: Path | None = None
    """The regular file that holds the content as it is; None where it is packed, or comes through a pipe."""
    part: str = ""
    """Which part of the file is meant, as the address says it."""
    memory: int | None = None
    """Bytes that what is unpacked as a whole may take; None: no bound."""
    size: int = 0
    """Of the file in bytes; 0 where that is not known."""
    packed_in: str = ""
    """The kind of archive that the content comes from: `zip`, `tar`."""
    known_digest: str | None = None
    """The digest of the bytes, where it was taken in another way than by reading them here."""
    _spool: Path | None = field(default=None, repr=False)

    def head(self, size: int) -> bytes:
        """The first bytes of the content; fewer where it is shorter."""
        return self.content.peek(size)

    def file(self) -> Path:
        """The content as a file on disk, for formats that are not read from start to end."""
        if self.path is not None:
            self.raw.drain()
            return self.path
        if self._spool is None:
            self._spool = self._spooled()
        return self._spool

    def _spooled(self) -> Path:
        bound = self.memory if self.compression or self.packed_in else None
        try:
            with tempfile.NamedTemporaryFile(prefix="mangler-", delete=False) as file:
                self._spool = Path(file.name)
                while piece := self.content.read(SPOOL_PIECE):
                    file.write(piece)
                    if bound is not None and file.tell() > bound:
                        raise too_large(self.name, file.tell(), bound)
        except OSError as error:
            raise not_filled(error) from None
        self.raw.drain()
        self.content = CountedStream(cast(ByteStream, self._spool.open("rb", buffering=0)))
        return self._spool

    def digest(self) -> str | None:
        """That of the bytes as they are; None where it was not asked for, or not all were read."""
        found = self.known_digest or self.raw.digest()
        return f"{found}{PART_MARK}{self.part}" if found and self.part else found

    def close(self) -> None:
        self.raw.close()
        self.content.close()
        if self._spool is not None:
            with contextlib.suppress(OSError):
                self._spool.unlink()


def too_large(name: str, size: int, memory: int) -> Exception:
    """The refusal of what would take more memory than there may be, once it is unpacked."""
    return file_trouble(
        "unpacks-to-too-much",
        f"{name} unpacks to {size / (1 << 20):,.0f} MB or more, and {memory / (1 << 20):,.0f} MB of memory are allowed",
        "If it is to be trusted, allow more with --memory, or unpack it yourself.",
    )


def split_address(address: str) -> tuple[str, str]:
    """The file of an address, and the part of it that is meant: `book.xlsx#Log`. A file of the whole name wins."""
    if is_remote(address):
        file, _, part = address.partition(PART_MARK)
        return file, part
    if address == "-" or PART_MARK not in address or os.path.lexists(address):
        return address, ""
    at = len(address)
    while (at := address.rfind(PART_MARK, 0, at)) > 0:
        if Path(address[:at]).is_file():
            return address[:at], address[at + 1 :]
    file, _, part = address.partition(PART_MARK)
    return file or address, part if file else ""


def open_location(address: str, digest: bool = False, memory: int | None = None, name: str = "") -> Location:
    """Opens the file at `address`, `-` for standard input; behind `#` a part of it may be named.

    Messages call it `name`, by default its address.
    """
    file, part = split_address(address)
    name = name or ("(standard input)" if address == "-" else readable(address))
    stream = open_bytes(file)
    raw = CountedStream(stream, digest)
    try:
        packed = kind_of(raw.peek(LONGEST_MAGIC))
        content = CountedStream(Decompressed(raw, packed, name)) if packed else raw
        path, size = (None, getattr(stream, "size", 0) or 0) if is_remote(file) else _regular(file)
        return Location(name, raw, content, packed, None if packed else path, part, memory, size)
    except BaseException:
        raw.close()
        raise


def _regular(file: str) -> tuple[Path | None, int]:
    """The path of a regular file, and its size."""
    if file == "-":
        return None, 0
    try:
        found = Path(file).stat()
    except OSError:
        return None, 0
    return (Path(file), found.st_size) if stat.S_ISREG(found.st_mode) else (None, 0)


def open_bytes(path: str) -> ByteStream:
    """The bytes of a file as they are, `-` for those of standard input."""
    if path == "-":
        return StandardInput()
    if is_remote(path):
        from mangler.formats.remote.stream import RemoteStream

        return RemoteStream(path)
    file = Path(path)
    try:
        if file.is_dir():
            raise file_trouble(
                "path-is-folder", f"{path} is a folder", f"Name the files in it: {path.rstrip('/')}/*.csv"
            )
        return cast(ByteStream, file.open("rb", buffering=0))
    except FileNotFoundError:
        raise file_trouble("no-such-file", f"{path} does not exist", _like_named(file)) from None
    except OSError as error:
        raise file_trouble("file-not-read", f"{path} cannot be opened: {reason(error)}") from None
    except ValueError:
        raise file_trouble(
            "no-such-file-name", f"{path!r} holds a NUL, and no file has a name like this"
        ) from None


def _like_named(file: Path) -> str:
    try:
        close = nearest(file.name, (other.name for other in file.parent.iterdir()))
    except OSError:
        return f"The folder {file.parent} does not exist either."
    return f"Nearest in its folder: {close[0]}." if close else ""
