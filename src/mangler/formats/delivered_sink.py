"""What the sinks of all formats have in common: one file that appears whole or not at all."""

from __future__ import annotations

from pathlib import Path

from mangler.formats.contract import PendingOutput
from mangler.formats.delivery import Delivery, NoDelivery, deliver_to


class DeliveredSink:
    """A sink to a path; to standard output for None; nowhere when it rehearses."""

    def __init__(self, path: Path | None, rehearse: bool) -> None:
        self.path = path
        self.rows_written = 0
        self._rehearse = rehearse
        self._delivery: Delivery | None = None

    def _deliver(self, compression: str | None = None, suffix: str = "") -> Delivery:
        """Begins the file. It is packed as is said, or as its name says; `suffix` is the ending of the format."""
        self._delivery = NoDelivery() if self._rehearse else deliver_to(self.path, compression, suffix)
        return self._delivery

    def remarks(self) -> list[str]:
        return []

    def warnings(self) -> list[str]:
        return []

    def pending(self) -> PendingOutput | None:
        inode = self._delivery.inode() if self._delivery is not None else None
        return None if self.path is None or inode is None else PendingOutput(self.path.absolute(), inode)

    def commit(self) -> None:
        if self._delivery is not None:
            self._delivery.commit()

    def discard(self) -> None:
        if self._delivery is not None:
            self._delivery.discard()
