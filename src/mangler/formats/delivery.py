"""Output that appears whole or not at all.

A file is written beside its place under a name of its own, flushed to disk, and renamed. Whatever ends the run
before that leaves what was there. A part left by a run that was killed holds no lock any more, and is taken
away by the next run that writes to the same place; one that holds a lock is of a run that goes on, and no second one
may write there.
"""

from __future__ import annotations

import atexit
import contextlib
import fcntl
import os
import secrets
import shutil
import sys
import tempfile
from pathlib import Path
from typing import IO, Protocol

from mangler.formats.compression import Compressor, compressor_for
from mangler.formats.early_flush import EarlyFlush
from mangler.formats.temporary import not_filled, not_made
from mangler.language.mistake import Refusal, file_trouble, reason

PART_SUFFIX = ".mangler-part"
UNFINISHED: set[Path] = set()
"""Parts that this process has begun. A signal can come at any moment, also before anybody holds the delivery
that made a part: what is left here at the process's end is taken away then."""
COPY_SIZE = 1 << 20
PERMISSIONS = 0o777
"""What a file takes over from the one that it replaces: who may read, write and run it, and no right to run it as
somebody else."""


class Delivery(Protocol):
    def write(self, content: bytes | memoryview) -> None: ...

    def inode(self) -> int | None:
        """That of the file which `commit` puts in its place; None where there is none."""
        ...

    def commit(self) -> None:
        """Puts everything written in its place."""
        ...

    def discard(self) -> None:
        """Leaves the place as it was. Does nothing after `commit`."""
        ...


class FileDelivery:
    """Delivery to a regular file, made or replaced; compressed where its name's ending asks for it."""

    def __init__(self, path: Path, compressor: Compressor | None = None) -> None:
        self.path = path
        self._target = _target_of(path)
        _refuse_unwritable(path, self._target)
        self._compressor = compressor
        _refuse_if_written(path, _take_stale_parts_away(self._target))
        self._part = self._target.with_name(f".{self._target.name}.{secrets.token_hex(4)}{PART_SUFFIX}")
        UNFINISHED.add(self._part)
        try:
            before = self._target.stat() if self._target.exists() else None
            mode = 0o666 if before is None else before.st_mode & PERMISSIONS
            descriptor = os.open(self._part, os.O_RDWR | os.O_CREAT | os.O_EXCL, mode)
        except OSError as error:
            UNFINISHED.discard(self._part)
            raise _cannot_write(path, error) from None
        if before is not None:
            _take_over(descriptor, before, mode)
        fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
        self._file: IO[bytes] | None = os.fdopen(descriptor, "wb", buffering=0)
        self._flush = EarlyFlush(descriptor)
        try:  # another run may have looked at the same moment
            _refuse_if_written(path, _take_stale_parts_away(self._target, self._part.name))
        except Refusal:
            self.discard()
            raise

    def write(self, content: bytes | memoryview) -> None:
        assert self._file is not None
        packed = self._compressor.compress(bytes(content)) if self._compressor else content
        _write_all(self._file, packed, self.path)
        self._flush.note(len(packed))

    def inode(self) -> int | None:
        assert self._file is not None
        return os.fstat(self._file.fileno()).st_ino

    def commit(self) -> None:
        assert self._file is not None
        if self._compressor is not None:
            _write_all(self._file, self._compressor.flush(), self.path)
        try:
            self._flush.finish()
            # Renamed before it is closed, and so unlocked: no other run can take it for a stale part.
            self._part.replace(self._target)
            UNFINISHED.discard(self._part)
            self._file.close()
            self._file = None
            _sync_folder(self._target.parent)
        except OSError as error:
            self.discard()
            raise _cannot_write(self.path, error) from None

    def discard(self) -> None:
        if self._file is not None:
            with contextlib.suppress(OSError):
                self._part.unlink()
            UNFINISHED.discard(self._part)
            with contextlib.suppress(OSError):
                self._file.close()
            self._file = None


def _take_over(descriptor: int, before: os.stat_result, mode: int) -> None:
    """The owner and the group of the file that is replaced, where we may set them, and its permissions."""
    own = os.fstat(descriptor)
    for owner, group in ((before.st_uid, -1), (-1, before.st_gid)):
        if (owner, group) not in ((own.st_uid, -1), (-1, own.st_gid)):
            with contextlib.suppress(OSError):
                os.fchown(descriptor, owner, group)
    os.fchmod(descriptor, mode)


@atexit.register
def take_unfinished_away() -> None:
    """At the end of the process."""
    for part in UNFINISHED:
        with contextlib.suppress(OSError):
            if part.is_dir():
                shutil.rmtree(part)
            else:
                part.unlink()


class StreamDelivery:
    """Delivery into a pipe or a device: kept in a temporary file, and sent only after success."""

    def __init__(self, name: str, path: Path | None = None, compressor: Compressor | None = None) -> None:
        self.name = name
        self._path, self._compressor = path, compressor
        try:
            self._spool: IO[bytes] | None = tempfile.TemporaryFile(prefix="mangler-")  # noqa: SIM115
        except OSError as error:
            raise not_made(error) from None

    def write(self, content: bytes | memoryview) -> None:
        assert self._spool is not None
        packed = self._compressor.compress(bytes(content)) if self._compressor else content
        _write_all(self._spool, packed, None)

    def inode(self) -> int | None:
        return None

    def commit(self) -> None:
        assert self._spool is not None
        if self._compressor is not None:
            _write_all(self._spool, self._compressor.flush(), None)
        self._spool.seek(0)
        try:
            if self._path is None:
                shutil.copyfileobj(self._spool, sys.stdout.buffer, COPY_SIZE)
                sys.stdout.buffer.flush()
            else:
                with self._path.open("wb") as out:
                    shutil.copyfileobj(self._spool, out, COPY_SIZE)
        except BrokenPipeError:
            raise
        except OSError as error:
            raise file_trouble(
                "file-not-written", f"{self.name} cannot be written: {reason(error)}"
            ) from None
        finally:
            self.discard()

    def discard(self) -> None:
        if self._spool is not None:
            with contextlib.suppress(OSError):
                self._spool.close()
            self._spool = None


class NoDelivery:
    """For a rehearsal: everything is done but the writing."""

    def write(self, content: bytes | memoryview) -> None:
        pass

    def inode(self) -> int | None:
        return None

    def commit(self) -> None:
        pass

    def discard(self) -> None:
        pass


def deliver_to(path: Path | None, compression: str | None = None, suffix: str = "") -> Delivery:
    """A delivery to a path; to standard output without one.

    `compression` is how the file is packed; without it its name says so. `suffix` is the ending of the format, for a
    file in a zip file.
    """
    compressor = compressor_for("table" if path is None else path.name, compression, suffix)
    if path is None:
        return StreamDelivery("standard output", None, compressor)
    try:
        if path.exists() and not path.is_file() and not path.is_dir():
            return StreamDelivery(str(path), path, compressor)
        return FileDelivery(path, compressor)
    except OSError as error:  # a folder on the way to it is closed to us
        raise _cannot_write(path, error) from None


def _refuse_unwritable(path: Path, target: Path) -> None:
    folder = target.parent
    if not folder.is_dir():
        raise file_trouble(
            "no-such-folder",
            f"{path} cannot be written: the folder {path.parent} does not exist",
            "Make the folder first.",
        )
    if target.is_dir():
        raise file_trouble(
            "path-is-folder", f"{path} cannot be written: it is a folder", "Name a file in it."
        )
    if target.exists() and not os.access(target, os.W_OK):
        raise file_trouble("file-not-written", f"{path} cannot be written: it is write-protected")


def is_being_delivered(path: Path, inode: int) -> bool:
    """Whether a run that goes on is about to put the file of this inode at `path`.

    What tells is the lock on its part, and not the number of the run's process: that may be another's by now, or of a
    process that has ended and that nobody has taken note of yet.
    """
    for part in _parts_of(_target_of(path)):
        with contextlib.suppress(OSError):  # it may be gone any moment
            if part.stat().st_ino == inode and _is_locked(part):
                return True
    return False


def _target_of(path: Path) -> Path:
    """A link is followed: what it points to is replaced, not the link."""
    return Path(os.path.realpath(path))


def _parts_of(target: Path) -> list[Path]:
    """What runs have written beside a place, and is not put there yet, or never will be."""
    start = f".{target.name}."
    try:
        with os.scandir(target.parent) as entries:
            names = [one.name for one in entries if one.name.startswith(start)]
    except OSError:
        return []
    return [target.with_name(name) for name in names if name.endswith(PART_SUFFIX)]


def _is_locked(part: Path) -> bool:
    with part.open("rb") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_SH | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
    return False


def _take_stale_parts_away(target: Path, own: str = "") -> bool:
    """Parts whose run has ended hold no lock. Whether there is one, besides our own, whose run has not."""
    others = False
    for part in _parts_of(target):
        if part.name == own:
            continue
        try:
            with part.open("rb") as file:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
                part.unlink()
        except BlockingIOError:
            others = True
        except OSError:
            continue
    return others


def _refuse_if_written(path: Path, others: bool) -> None:
    if others:
        raise file_trouble(
            "written-by-another-run",
            f"{path} is being written by another run",
            "Wait until that has ended, or write to another place.",
        )


def _write_all(file: IO[bytes], content: bytes | memoryview, path: Path | None) -> None:
    """Writes it all; without a path it goes into a temporary file."""
    rest = memoryview(content)
    try:
        while len(rest):
            rest = rest[file.write(rest) :]
    except OSError as error:
        if path is not None:
            raise _cannot_write(path, error) from None
        raise not_filled(error) from None


def _cannot_write(path: Path, error: OSError) -> Refusal:
    return file_trouble(
        "file-not-written",
        f"{path} cannot be written: {reason(error)}",
        "What was there before is unchanged.",
    )


def _sync_folder(folder: Path) -> None:
    """Makes a rename last through a power cut; not every file system allows it."""
    with contextlib.suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)
