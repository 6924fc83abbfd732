"""Standard input as a stream of bytes that a signal can end at any moment."""

from __future__ import annotations

import errno
import os
import select
import sys

from mangler.language.mistake import file_trouble, reason

WAIT = 0.2
"""Seconds. A signal that comes just before a read would be seen only when more bytes come; so reads wait
in short stretches, between which Python looks after signals."""
PIECE = 1 << 20


class StandardInput:
    def read(self, size: int, /) -> bytes:
        """At most so many bytes, as soon as there are any; none at the end."""
        try:
            descriptor = sys.stdin.fileno()
            while not select.select([descriptor], [], [], WAIT)[0]:
                pass
            return os.read(descriptor, size)
        except OSError as error:
            why = "it is closed" if error.errno == errno.EBADF else reason(error)
            raise file_trouble("file-not-read", f"standard input cannot be read: {why}") from None

    def read_all(self) -> bytes:
        """Everything up to the end."""
        pieces = []
        while piece := self.read(PIECE):
            pieces.append(piece)
        return b"".join(pieces)

    def close(self) -> None:
        """Leaves standard input open: it is not Mangler's own."""
