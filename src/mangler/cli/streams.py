"""Standard input, output and error: safe to use, whatever the program was started with."""

from __future__ import annotations

import contextlib
import errno
import io
import os
import sys
from typing import Any, TextIO, cast

CLOSED_AS = ((0, os.O_WRONLY), (1, os.O_RDONLY), (2, os.O_WRONLY))
"""How the null device takes the number of a stream that is closed. Reading from it, or writing to it, then fails as it
does on a closed stream; what goes to standard error is lost."""


def prepare() -> None:
    """Makes the streams safe to use.

    A stream that is closed gets its number back: else the next file that is opened would have it, and messages would
    go into that. A character that the encoding lacks is written as an escape. Messages that cannot be written are
    lost; they never end the work.
    """
    for descriptor, mode in CLOSED_AS:
        try:
            os.fstat(descriptor)
        except OSError:
            os.set_inheritable(os.open(os.devnull, mode), True)
    sys.stdin = sys.stdin or open(0, closefd=False)  # noqa: SIM115
    out = sys.stdout or io.TextIOWrapper(io.BufferedWriter(io.FileIO(1, "w", closefd=False)), "utf-8")
    err = sys.stderr or io.TextIOWrapper(io.BufferedWriter(io.FileIO(2, "w", closefd=False)), "utf-8")
    for stream in (out, err):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    if not isinstance(out, Guarded):
        sys.stdout = cast(TextIO, Guarded(out, is_answer=True))
    if not isinstance(err, Guarded):
        sys.stderr = cast(TextIO, Guarded(err, is_answer=False))


def finish() -> None:
    """Writes what is buffered. What cannot be written is dropped, or Python would complain at its end."""
    for stream in (sys.stdout, sys.stderr):
        try:
            stream.flush()
        except Exception:
            silence(stream)


def silence(stream: Any) -> None:
    """Sends all that is written to the stream from now on nowhere, what is buffered included."""
    with contextlib.suppress(OSError, ValueError):
        null = os.open(os.devnull, os.O_WRONLY)
        os.dup2(null, stream.fileno())
        os.close(null)


class UnreadError(Exception):
    """Nobody reads standard output any more."""


class Guarded:
    """A text stream. Trouble with an answer is a Refusal; trouble with a message is ignored."""

    def __init__(self, stream: TextIO, is_answer: bool) -> None:
        self._stream, self._is_answer = stream, is_answer

    def write(self, text: str) -> int:
        try:
            return self._stream.write(text)
        except (OSError, ValueError) as error:
            self._in_trouble(error)
        return len(text)

    def flush(self) -> None:
        try:
            self._stream.flush()
        except (OSError, ValueError) as error:
            self._in_trouble(error)

    def _in_trouble(self, error: OSError | ValueError) -> None:
        if isinstance(error, BrokenPipeError) and self._is_answer:
            raise UnreadError from None
        if not isinstance(error, BlockingIOError):
            silence(self._stream)
        if not self._is_answer:
            return
        from mangler.language.mistake import file_trouble, reason

        closed = not isinstance(error, OSError) or error.errno == errno.EBADF
        why = "it is closed" if closed or not isinstance(error, OSError) else reason(error)
        raise file_trouble("file-not-written", f"standard output cannot be written: {why}") from None

    def __getattr__(self, name: str) -> Any:
        return getattr(self._stream, name)
