"""Reads a workbook in a process of its own, whose memory and work are bounded: a hostile file cannot do more."""

from __future__ import annotations

import contextlib
import pickle
import signal
import subprocess
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from mangler.language.mistake import Refusal, file_trouble

WORKER = "mangler.formats.workbook.worker"
LEAST_SECONDS, SECONDS_PER_MB = 8, 20
"""Seconds of work, whatever else the machine does."""
USUAL_MEMORY = 4 << 30
"""Bytes that it may take by default."""
LOCKED = "PasswordError"


class WorkbookReader:
    """A workbook that another process has opened."""

    def __init__(self, path: Path, name: str, memory: int | None) -> None:
        self._name, self._memory = name, memory or USUAL_MEMORY
        self._seconds = LEAST_SECONDS + SECONDS_PER_MB * (path.stat().st_size >> 20)
        # -P: nothing is imported from the folder that the program was started in.
        words = [sys.executable, "-P", "-m", WORKER, str(path), str(self._memory), str(self._seconds)]
        self._process = subprocess.Popen(
            words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
        )

    def sheets(self) -> tuple[list[tuple[str, str, str]], list[str]]:
        """For each sheet its name, its kind and whether it is visible; and the names of all."""
        found: tuple[list[tuple[str, str, str]], list[str]] = self._ask("sheets")
        return found

    def open(self, sheet: str) -> tuple[Any, int, int, list[Any]]:
        """Where the cells of a sheet start, how many rows and columns they have, and its merged areas."""
        found: tuple[Any, int, int, list[Any]] = self._ask("open", sheet)
        return found

    def rows(self) -> Iterator[Sequence[Any]]:
        """The rows of the sheet that was opened last."""
        chunk = self._ask("rows")
        while chunk is not None:
            yield from chunk
            chunk = self._answer()

    def _ask(self, word: str, name: str = "") -> Any:
        assert self._process.stdin is not None
        with contextlib.suppress(BrokenPipeError):
            self._process.stdin.write(pickle.dumps((word, name)))
            self._process.stdin.flush()
        return self._answer()

    def _answer(self) -> Any:
        assert self._process.stdout is not None
        try:
            found = pickle.load(self._process.stdout)
        except (EOFError, pickle.UnpicklingError):
            raise self._ended() from None
        if isinstance(found, tuple) and found and found[0] == "error":
            raise self._refused(*found[1:])
        return found

    def _ended(self) -> Refusal:
        """The other process did not survive: it took too long, or more memory than it may."""
        code = self._process.wait()
        if code == -signal.SIGXCPU:
            why = f"reading it took more than {self._seconds} s of work"
        elif code == -signal.SIGABRT:
            why = f"it takes more than {self._memory >> 20:,} MB of memory"
        else:
            why = "the library that reads it gave up"
        return file_trouble(
            "file-damaged",
            f"{self._name} cannot be read as a workbook: {why}",
            "It may be damaged, or have cells far from its table. If it is as it should be, allow more with --memory.",
        )

    def _refused(self, kind: str, why: str) -> Refusal:
        if kind == LOCKED or "password" in why.lower():
            return locked(self._name)
        if kind == "MemoryError" or "memory" in why.lower():
            why = "it takes more memory than --memory allows"
        elif kind == "PanicException":
            why = "its content contradicts itself"
        return damaged(self._name, why or kind)

    def close(self) -> None:
        """Ends the other process."""
        for stream in (self._process.stdin, self._process.stdout):
            if stream is not None:
                with contextlib.suppress(OSError):
                    stream.close()
        self._process.kill()
        self._process.wait()


def locked(name: str) -> Refusal:
    return file_trouble("file-encrypted", f"{name} is locked with a password", "Save it without one.")


def damaged(name: str, why: str) -> Refusal:
    first = (why.splitlines() or [""])[0].rstrip(".")
    return file_trouble(
        "file-damaged",
        f"{name} cannot be read as a workbook: {first[:300]}",
        "It may be damaged, or not written to its end.",
    )
