"""Archives: the one table in a zip or tar file, or the one that an address names, `logs.zip#week-19.csv`."""

from __future__ import annotations

import lzma
import tarfile
import zipfile
import zlib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from fnmatch import fnmatchcase
from pathlib import Path
from typing import IO, Any, TypeAlias, cast

from mangler.file_names import readable
from mangler.formats.compression import LONGEST_MAGIC, CountedStream, Decompressed, kind_of
from mangler.formats.location import PART_MARK, Location
from mangler.language.mistake import Refusal, enumerate_names, file_trouble, nearest

ZIP_MAGIC = (b"PK\x03\x04", b"PK\x05\x06")
TAR_MAGIC, TAR_MAGIC_AT = b"ustar", 257
TAR_HEAD = TAR_MAGIC_AT + len(TAR_MAGIC)
MOST_LISTED = 10
PACKAGES = {
    "xl/workbook.xml": "workbook",
    "xl/workbook.bin": "workbook",
    "word/document.xml": "a text document",
    "ppt/presentation.xml": "a presentation",
}
"""What a zip file is when it holds this file: a document, and no archive of tables."""
OPEN_DOCUMENT = "application/vnd.oasis.opendocument."
Container: TypeAlias = zipfile.ZipFile | tarfile.TarFile
DAMAGE: tuple[type[Exception], ...] = (
    zipfile.BadZipFile,
    tarfile.TarError,
    zlib.error,
    lzma.LZMAError,
    EOFError,
    OSError,
    ValueError,
    NotImplementedError,
    RuntimeError,
    OverflowError,
)


def is_zip(location: Location) -> bool:
    return location.head(4) in ZIP_MAGIC


def package_kind(location: Location) -> str:
    """What a zip file is: `workbook`, another kind of document, or nothing for an archive of files."""
    kind: str = _guarded(location.name, lambda: _package_kind(location))
    return kind


def _package_kind(location: Location) -> str:
    with _zip(location) as archive:
        names = set(archive.namelist())
        kind = next((kind for name, kind in PACKAGES.items() if name in names), "")
        if kind or "mimetype" not in names:
            return kind
        with archive.open("mimetype") as file:
            said = file.read(len(OPEN_DOCUMENT) + 40).decode("ascii", "replace").strip()
    if not said.startswith(OPEN_DOCUMENT):
        return ""
    kind = said.removeprefix(OPEN_DOCUMENT).removesuffix("-template")
    return "workbook" if kind == "spreadsheet" else f"an OpenDocument {kind} file"


def is_archive(location: Location) -> bool:
    """Whether the content is a zip or tar file of files. Documents that are zip files by chance are none."""
    if is_zip(location):
        kind = package_kind(location)
        if kind not in ("", "workbook"):
            raise file_trouble(
                "not-a-table", f"{location.name} is {kind}", "Export its table as delimited text."
            )
        return not kind
    return location.head(TAR_HEAD)[TAR_MAGIC_AT:] == TAR_MAGIC


def files_in(location: Location) -> list[str]:
    """The files in an archive, in its order, without hidden ones."""
    names: list[str] = _guarded(location.name, lambda: _files_in(location))
    return names


def _files_in(location: Location) -> list[str]:
    if is_zip(location):
        with _zip(location) as archive:
            names = [info.filename for info in archive.infolist() if not info.is_dir()]
    else:
        with _tar(location) as archive:
            names = [member.name for member in archive if member.isfile()]
    return [name for name in names if not _is_hidden(name)]


def fitting(names: Iterable[str], pattern: str) -> list[str]:
    """The names that a pattern with * and ? fits."""
    return [name for name in names if fnmatchcase(name, pattern)]


def opened(location: Location) -> Location:
    """The content of the one file of an archive that is meant."""
    names = files_in(location)
    name = _chosen(location, names)
    address = location.name if location.part else f"{location.name}{PART_MARK}{readable(name)}"
    container, stream = _guarded(location.name, lambda: _member(location, name))
    content = CountedStream(_Unpacked(stream, address))
    packed = kind_of(content.peek(LONGEST_MAGIC))
    if packed:
        content = CountedStream(Decompressed(content, packed, address))
    kind = "zip" if is_zip(location) else "tar"
    inner = _Member(location, stream, container)
    found = replace(
        location,
        name=address,
        raw=cast(CountedStream, inner),
        content=content,
        compression=packed,
        path=None,
        part="",
        packed_in=kind,
        _spool=None,
    )
    if is_zip(found) and not package_kind(found):
        found.close()
        raise file_trouble("archive-in-archive", f"{address} is an archive in an archive", "Unpack it first.")
    return found


class _Member:
    """The raw bytes behind a file of an archive: those of the archive, which are all digested already."""

    def __init__(self, archive: Location, stream: IO[bytes], container: Container) -> None:
        self._archive, self._stream, self._container = archive, stream, container

    @property
    def position(self) -> int:
        return self._archive.size

    def drain(self) -> None:
        self._archive.raw.drain()

    def digest(self) -> str | None:
        return self._archive.digest()

    def close(self) -> None:
        self._stream.close()
        self._container.close()
        self._archive.close()


class _Unpacked:
    """The bytes of a file of an archive; damage is a refusal."""

    def __init__(self, stream: IO[bytes], name: str) -> None:
        self._stream, self._name = stream, name

    def read(self, size: int, /) -> bytes:
        content: bytes = _guarded(self._name, lambda: self._stream.read(size))
        return content

    def close(self) -> None:
        self._stream.close()


def _chosen(location: Location, names: Sequence[str]) -> str:
    """The file that is meant: named, or the only one."""
    name, part = location.name.removesuffix(f"{PART_MARK}{location.part}"), location.part
    if not names:
        raise file_trouble("archive-empty", f"{name} holds no file", "Is it the right archive?")
    if part:
        found = [part] if part in names else fitting(names, part)
        if len(found) == 1:
            return found[0]
        if not found:
            close = nearest(part, names)
            way = f"Nearest: {name}{PART_MARK}{close[0]}" if close else f"It holds {_listed(names)}."
            raise file_trouble("no-such-part", f"{name} holds no file {part}", way)
        names = found
    if len(names) == 1:
        return names[0]
    raise file_trouble(
        "several-tables",
        f"{name} holds {len(names):,} files, and one is to be read: {_listed(names)}",
        f"Name one, {name}{PART_MARK}{names[0]}, or take all as extracts of their own: '{name}{PART_MARK}*'",
    )


def _listed(names: Sequence[str]) -> str:
    return enumerate_names([readable(name) for name in names], MOST_LISTED)


def _is_hidden(name: str) -> bool:
    return any(part.startswith((".", "__MACOSX")) for part in Path(name).parts)


def _zip(location: Location) -> zipfile.ZipFile:
    return zipfile.ZipFile(location.file())


def _tar(location: Location) -> tarfile.TarFile:
    return tarfile.open(location.file(), "r:")


def _member(location: Location, name: str) -> tuple[Container, IO[bytes]]:
    """An opened archive, and the stream of a file in it."""
    if is_zip(location):
        archive = _zip(location)
        info = archive.getinfo(name)
        if info.flag_bits & 1:
            archive.close()
            raise file_trouble(
                "file-encrypted", f"{location.name} is encrypted", "Unpack it with its password first."
            )
        return archive, archive.open(info)
    tar = _tar(location)
    content = tar.extractfile(name)
    assert content is not None
    return tar, content


def _guarded(name: str, work: Callable[[], Any]) -> Any:
    """The outcome of work on an archive; damage is a refusal."""
    try:
        return work()
    except Refusal:
        raise
    except DAMAGE as error:
        raise file_trouble(
            "file-damaged",
            f"{name} cannot be unpacked: {str(error).rstrip('.') or type(error).__name__}",
            "It may be damaged, or not written to its end.",
        ) from None
