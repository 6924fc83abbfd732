"""How a process of --workers sets itself up."""

from __future__ import annotations

from mangler.cli import signals, streams

GRACE = 1.0
"""Seconds after which it takes away what it has begun, whatever computes."""


def prepare_worker() -> None:
    """Streams that are safe to use, and signals that end the process: the one that started it says so."""
    streams.prepare()
    signals.listen(GRACE, says=False)
