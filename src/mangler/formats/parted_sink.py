"""One output per value of some columns: files in one folder, which appears whole or not at all."""

from __future__ import annotations

import contextlib
import fcntl
import os
import re
import secrets
import shutil
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.formats.compression import ENDINGS
from mangler.formats.contract import PendingOutput, Sink, Source
from mangler.formats.delivery import PART_SUFFIX, UNFINISHED
from mangler.kernels.keys.keys import keys_of
from mangler.kernels.values.format_values import format_values
from mangler.language.mistake import extract_does_not_fit, file_trouble, nearest, reason, wrong_recipe
from mangler.table.batch import Batch
from mangler.table.schema import Schema, ValueType
from mangler.table.settings import WriteSettings
from mangler.table.stored_types import to_worked

MOST_FILES = 1000
"""Each is open until the end."""
LISTING = ".mangler-parts"
"""Lists the files of a folder that a run wrote, so that the next one may put its own in their place."""
UNSAFE = re.compile(r'[\x00-\x1f\x7f/\\:*?"<>|]+')
LONGEST_NAME = 100
NULL, EMPTY = "null", "empty"
"""The names of null and of texts that leave nothing for a name."""


@dataclass(frozen=True)
class Parts:
    """Rows by the file that they go to: the values that its name is made from, and the rows."""

    rows: list[tuple[tuple[str | None, ...], Batch]]


class PartedSink:
    """Writes each row to the file of its values. `make` gives the sink of one file, which it is a path for."""

    def __init__(self, path: Path | None, rehearse: bool, make: Callable[[Path | None], Sink]) -> None:
        self.path = path
        self.folder = None if path is None else folder_of(path)
        self._rehearse, self._make = rehearse, make
        self._part: Path | None = None
        self._lock: int | None = None
        self._indices: list[int] = []
        self._names: list[str] = []
        self._form: tuple[str | tuple[str], ...] = ()
        self._opened: Callable[[Sink], None] = lambda _: None
        self._schema = Schema(())
        self._sinks: dict[tuple[str | None, ...], Sink] = {}
        self._taken: dict[str, str] = {}

    @property
    def rows_written(self) -> int:
        return sum(sink.rows_written for sink in self._sinks.values())

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None:
        self._schema, self._names = schema, list(settings.by)
        self._indices = [self._index(name, schema, settings) for name in settings.by]
        between = [part for name in settings.by for part in ("-", (name,))]
        self._form = settings.named or tuple(between[1:])
        self._opened = lambda sink: sink.open(schema, settings, like)
        if self.folder is None and not self._rehearse:
            raise wrong_recipe(
                "several-extracts-one-file",
                "write by makes several files, and standard output holds one",
                "Name a folder: --to clean/",
                settings.spans.get("by"),
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

    def _index(self, name: str, schema: Schema, settings: WriteSettings) -> int:
        span = settings.spans.get("by")
        if name not in schema.names:
            close = nearest(name, schema.names)
            raise extract_does_not_fit(
                "unknown-column",
                f'no column "{name}" comes out of the steps, and write by names it',
                f"Nearest: {close[0]}." if close else "",
                span,
            )
        index = schema.names.index(name)
        if schema.columns[index].type in (ValueType.LIST, ValueType.OTHER):
            raise wrong_recipe(
                "wrong-type",
                f'"{name}" is {schema.columns[index].type}, and files are named after single values',
                f'Make a text of it first: convert {name} to text, or joined({name}, "-").',
                span,
            )
        return index

    def encode(self, batch: Batch) -> Parts:
        columns = [
            format_values(to_worked(batch.columns[index], self._schema.columns[index]))
            for index in self._indices
        ]
        keys = keys_of(columns, len(batch))
        order = np.argsort(keys.codes, kind="stable")
        bounds = np.searchsorted(keys.codes[order], np.arange(keys.count + 1))
        parts = []
        for number, first in enumerate(keys.first.tolist()):
            rows = order[bounds[number] : bounds[number + 1]]
            chosen = pa.array(rows)
            own = Batch(
                tuple(column.take(chosen) for column in batch.columns), batch.rows[rows], batch.origin
            )
            parts.append((tuple(column[first].as_py() for column in columns), own))
        return Parts(parts)

    def write(self, encoded: Parts) -> None:
        for values, batch in encoded.rows:
            sink = self._sinks.get(values) or self._new(values)
            sink.write(sink.encode(batch))

    def _new(self, values: tuple[str | None, ...]) -> Sink:
        if len(self._sinks) == MOST_FILES:
            raise extract_does_not_fit(
                "too-many-files",
                f"write by {', '.join(self._names)} would make more than {MOST_FILES:,} files",
                "Take a column of fewer values, or write one file.",
            )
        path = None if self._part is None or self.path is None else self._part / self._name(values)
        sink = self._make(path)
        self._opened(sink)
        self._sinks[values] = sink
        return sink

    def _name(self, values: Sequence[str | None]) -> str:
        """A name for the file of these values. Two that would have the same one, letter case aside, are numbered."""
        assert self.path is not None
        by_name = dict(zip(self._names, map(_safe, values), strict=True))
        stem = "".join(part if isinstance(part, str) else by_name[part[0]] for part in self._form)
        stem = UNSAFE.sub("-", stem).strip(". ")[:LONGEST_NAME] or EMPTY
        name, number = stem, 1
        while name.casefold() in self._taken:
            number += 1
            name = f"{stem}-{number}"
        self._taken[name.casefold()] = name
        return f"{name}{ending_of(self.path)}"

    def finish(self, like: Source) -> None:
        for sink in self._sinks.values():
            sink.finish(like)

    def remarks(self) -> list[str]:
        return list(dict.fromkeys(remark for sink in self._sinks.values() for remark in sink.remarks()))

    def warnings(self) -> list[str]:
        return list(dict.fromkeys(warning for sink in self._sinks.values() for warning in sink.warnings()))

    def pending(self) -> PendingOutput | None:
        return None

    def commit(self) -> None:
        """Puts the folder in its place; the one of an earlier run goes."""
        for sink in self._sinks.values():
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
        for sink in self._sinks.values():
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


def _safe(value: str | None) -> str:
    """A value as a part of a file's name."""
    if value is None:
        return NULL
    return UNSAFE.sub("-", value).strip() or EMPTY


def _refuse_foreign(folder: Path) -> None:
    """Refuses a folder that holds what no run put there: it would be lost."""
    if not os.path.lexists(folder):
        return
    if not folder.is_dir():
        raise file_trouble(
            "file-exists",
            f"{folder} is a file, and write by makes a folder of this name",
            "Name another place.",
        )
    listing = folder / LISTING
    known = {LISTING, *(listing.read_text("utf-8").splitlines() if listing.is_file() else ())}
    foreign = sorted(path.name for path in folder.iterdir() if path.name not in known)
    if foreign:
        raise file_trouble(
            "file-exists",
            f"the folder {folder} holds {foreign[0]}, which no run with write by put there",
            "The whole folder is replaced by the new files. Name another, or take what is in it away.",
        )
