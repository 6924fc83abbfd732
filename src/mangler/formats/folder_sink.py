"""An output that is a folder of files, which appears whole or not at all."""

from __future__ import annotations

import contextlib
import fcntl
import os
import secrets
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

from mangler.formats.compression import ENDINGS
from mangler.formats.contract import PendingOutput, Sink, Source
from mangler.formats.delivery import PART_SUFFIX, UNFINISHED
from mangler.language.mistake import Refusal, file_trouble, reason, wrong_recipe
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings

MOST_FILES = 1000
"""Each is open until the end."""
LISTING = ".mangler-parts"
"""Lists the files of a folder that a run wrote, so that the next one may put its own in their place."""


class FolderSink:
    """Several files in a folder. `make` gives the sink of one file, which it is a path for.

    `clause` is the one of `write` that asks for several files, and `told` names it in messages.
    """

    clause = told = ""

    def __init__(self, path: Path | None, rehearse: bool, make: Callable[[Path | None], Sink]) -> None:
        self.path = path
        self.folder = None if path is None else folder_of(path)
        self._rehearse, self._make = rehearse, make
        self._part: Path | None = None
        self._lock: int | None = None
        self._opened: Callable[[Sink], None] = lambda _: None
        self._files: list[Sink] = []

    @property
    def rows_written(self) -> int:
        return sum(sink.rows_written for sink in self._files)

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        self._opened = lambda sink: sink.open(schema, settings, like)
        if self.folder is None and not self._rehearse:
            raise wrong_recipe(
                "several-extracts-one-file",
                f"{self.told} makes several files, and standard output holds one",
                "Name a folder: --to clean/",
                settings.spans.get(self.clause),
            )
        if self.folder is not None and not self._rehearse:
            _refuse_foreign(self.folder)
            self._part = self.folder.with_name(f".{self.folder.name}.{secrets.token_hex(4)}{PART_SUFFIX}")
            self._begin(self.folder, self._part)

    def _begin(self, folder: Path, part: Path) -> None:
        """Makes the folder that takes the place of another at the end; those of runs that were killed go."""
        try:
            for other in folder.parent.glob(f".{folder.name}.*{PART_SUFFIX}"):
                if other.is_dir() and not _take_away(other):
                    raise file_trouble(
                        "written-by-another-run",
                        f"{folder} is being written by another run",
                        "Wait until that has ended, or write to another place.",
                    )
            UNFINISHED.add(part)
            part.mkdir()
            self._lock = os.open(part, os.O_RDONLY)
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            raise _cannot_write(folder, error) from None

    def _unlock(self) -> None:
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None

    def _new_file(self, name: Callable[[], str]) -> Sink:
        """One more file of the folder."""
        if len(self._files) == MOST_FILES:
            raise self._too_many(MOST_FILES)
        sink = self._make(None if self._part is None or self.path is None else self._part / name())
        self._opened(sink)
        self._files.append(sink)
        return sink

    def _too_many(self, most: int) -> Refusal:
        """What is said of more files than may be."""
        raise NotImplementedError

    def finish(self, like: Source) -> None:
        for sink in self._files:
            sink.finish(like)

    def remarks(self) -> list[str]:
        return list(dict.fromkeys(remark for sink in self._files for remark in sink.remarks()))

    def warnings(self) -> list[str]:
        return list(dict.fromkeys(warning for sink in self._files for warning in sink.warnings()))

    def pending(self) -> PendingOutput | None:
        return None

    def commit(self) -> None:
        """Puts the folder in its place; the one of an earlier run goes."""
        for sink in self._files:
            sink.commit()
        if self._part is None or self.folder is None:
            return
        part, folder = self._part, self.folder
        names = sorted(path.name for path in part.iterdir())
        self._guarded(lambda: (part / LISTING).write_text("".join(f"{name}\n" for name in names), "utf-8"))
        _refuse_foreign(folder)
        old = folder.with_name(f".{folder.name}.{secrets.token_hex(4)}.old{PART_SUFFIX}")
        if folder.exists():
            self._guarded(lambda: folder.rename(old))
        try:
            part.rename(folder)
        except OSError as error:
            with contextlib.suppress(OSError):
                old.rename(folder)
            raise _cannot_write(folder, error) from None
        UNFINISHED.discard(part)
        self._part = None
        self._unlock()
        shutil.rmtree(old, ignore_errors=True)

    def discard(self) -> None:
        for sink in self._files:
            sink.discard()
        if self._part is not None:
            shutil.rmtree(self._part, ignore_errors=True)
            UNFINISHED.discard(self._part)
            self._part = None
        self._unlock()

    def _guarded(self, work: Callable[[], Any]) -> None:
        assert self.folder is not None
        try:
            work()
        except OSError as error:
            raise _cannot_write(self.folder, error) from None


def _take_away(part: Path) -> bool:
    """Takes the folder of a run away that has ended; whether it could be, as no run holds its lock."""
    with contextlib.suppress(FileNotFoundError):
        descriptor = os.open(part, os.O_RDONLY)
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return False
        finally:
            os.close(descriptor)
        shutil.rmtree(part, ignore_errors=True)
    return True


def _cannot_write(folder: Path, error: OSError) -> Exception:
    return file_trouble(
        "file-not-written",
        f"the folder {folder} cannot be written: {reason(error)}",
        "What was there before is unchanged.",
    )


def ending_of(path: Path) -> str:
    """The ending of a name, with that of a compression: `.csv.gz`."""
    return path.name[len(folder_of(path).name) :]


def folder_of(path: Path) -> Path:
    """The folder of the files that take the place of one output: its name without its ending."""
    plain = path.with_suffix("") if path.suffix.lower() in ENDINGS else path
    return plain.with_suffix("")


def _refuse_foreign(folder: Path) -> None:
    """Refuses a folder that holds what no run put there: it would be lost."""
    if not os.path.lexists(folder):
        return
    if not folder.is_dir():
        raise file_trouble(
            "file-exists",
            f"{folder} is a file, and the output is a folder of this name",
            "Name another place.",
        )
    listing = folder / LISTING
    known = {LISTING, *(listing.read_text("utf-8").splitlines() if listing.is_file() else ())}
    foreign = sorted(path.name for path in folder.iterdir() if path.name not in known)
    if foreign:
        raise file_trouble(
            "file-exists",
            f"the folder {folder} holds {foreign[0]}, which no run put there",
            "The whole folder is replaced by the new files. Name another, or take what is in it away.",
        )
