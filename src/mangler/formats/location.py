"""A file or standard input, opened for reading: its bytes as they are, and decompressed."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import cast

from mangler.file_names import readable
from mangler.formats.compression import LONGEST_MAGIC, ByteStream, CountedStream, Decompressed, kind_of
from mangler.formats.standard_input import StandardInput
from mangler.language.mistake import file_trouble, reason


@dataclass(frozen=True)
class Location:
    """An opened extract, before its format is known."""

    name: str
    """As messages name it."""
    raw: CountedStream
    """The bytes as they are, counted, and digested where that was asked for."""
    content: CountedStream
    """The bytes decompressed; bytes that were looked at can still be read."""
    compression: str | None

    def head(self, size: int) -> bytes:
        """The first bytes of the content; fewer where it is shorter."""
        return self.content.peek(size)

    def close(self) -> None:
        self.raw.close()


def open_location(path: str, digest: bool = False) -> Location:
    """Opens the file at `path`, `-` for standard input."""
    name = "(standard input)" if path == "-" else readable(path)
    raw = CountedStream(_open(path), digest)
    try:
        packed = kind_of(raw.peek(LONGEST_MAGIC))
        return Location(name, raw, CountedStream(Decompressed(raw, packed, name)) if packed else raw, packed)
    except BaseException:
        raw.close()
        raise


def _open(path: str) -> ByteStream:
    if path == "-":
        return StandardInput()
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
    from mangler.language.mistake import nearest

    try:
        close = nearest(file.name, (other.name for other in file.parent.iterdir()))
    except OSError:
        return f"The folder {file.parent} does not exist either."
    return f"Nearest in its folder: {close[0]}." if close else ""
