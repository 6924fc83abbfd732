"""Standard input as a stream of bytes that a signal can end at any moment."""

from __future__ import annotations

import os
import select
import sys

WAIT = 0.2
"""Seconds. A signal that comes just before a read would be seen only when more bytes come; so reads wait
in short stretches, between which Python looks after signals."""


class StandardInput:
    def read(self, size: int, /) -> bytes:
        """At most so many bytes, as soon as there are any; none at the end."""
        descriptor = sys.stdin.fileno()
        while not select.select([descriptor], [], [], WAIT)[0]:
            pass
        return os.read(descriptor, size)

    def close(self) -> None:
        """Leaves standard input open: it is not Mangler's own."""
