"""What the sinks of all formats have in common: one file that appears whole or not at all."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any, Protocol

from mangler.formats.contract import PendingOutput
from mangler.formats.delivery import Delivery, NoDelivery, deliver_to


class RowsBefore(Protocol):
    """A file whose rows come first; asked for once the place is ours, so that no other run can change it."""

    def content(self) -> Iterator[bytes]:
        """Its bytes, unpacked, in pieces."""
        ...

    def records(self) -> Iterator[Any]:
        """Its rows as record batches of pyarrow, for formats with types of their own."""
        ...


class DeliveredSink:
    """A sink to a path; to standard output for None; nowhere when it rehearses."""

    rows_before: RowsBefore | None = None
    """Where rows go behind those of a file; said before `open`. They do not count as rows written."""

    def __init__(self, path: Path | None, rehearse: bool) -> None:
        self.path = path
        self.rows_written = 0
        self._rehearse = rehearse
        self._delivery: Delivery | None = None

    def _deliver(self, compression: str | None = None, suffix: str = "") -> Delivery:
        """Begins the file. It is packed as is said, or as its name says; `suffix` is the ending of the format."""
        self._delivery = NoDelivery() if self._rehearse else deliver_to(self.path, compression, suffix)
        return self._delivery

    def _copy_before(self) -> bytes:
        """Writes what the file before holds; its last bytes, or no bytes where there is no such file."""
        last = b""
        if self.rows_before is not None:
            assert self._delivery is not None
            for piece in self.rows_before.content():
                self._delivery.write(piece)
                last = (last + piece)[-8:]
        return last

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
