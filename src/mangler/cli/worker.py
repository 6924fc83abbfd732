"""How a process of --workers sets itself up."""

from __future__ import annotations

from collections.abc import Mapping

from mangler.addresses import take_over
from mangler.cli import signals, streams

GRACE = 1.0
"""Seconds after which it takes away what it has begun, whatever computes."""


def prepare_worker(passwords: Mapping[str, str]) -> None:
    """Streams that are safe to use, signals that end the process, which the one that started it tells of, and the
    passwords of databases, which are in no address."""
    take_over(passwords)
    streams.prepare()
    signals.listen(GRACE, says=False)
