"""The bytes of a file elsewhere, from its start to its end; a connection that breaks is made again."""

from __future__ import annotations

import contextlib
from dataclasses import replace
from time import sleep
from typing import Any

from mangler.addresses import WEB, name_of, scheme_of
from mangler.formats.remote.listing import files_in
from mangler.formats.remote.places import Place, place_of
from mangler.formats.remote.trouble import breaks_off, changed, is_folder, told
from mangler.language.mistake import Refusal, nearest

PIECE = 4 << 20
"""Bytes that are asked for at a time."""
WAITS = (0.5, 1.0, 2.0, 4.0)
"""Seconds before a connection that broke is tried again."""


class RemoteStream:
    """A stream of bytes. It remembers how far it came, and goes on there after trouble."""

    def __init__(self, address: str) -> None:
        self.address = address
        self._place, self._file = self._reached()
        self.size: int | None = self._place.info.get("size")
        self._version = self._place.version
        self._offset = 0
        self._skip = 0
        """Bytes to be read over, where a server does not start in the middle."""

    def _reached(self) -> tuple[Place, Any]:
        place = place_of(self.address)
        try:
            return self._opened(place)
        except Refusal as refusal:
            mistake = refusal.mistakes[0]
            if mistake.word != "no-such-file" or scheme_of(self.address) in WEB:
                raise
            raise Refusal([replace(mistake, advice=_like_named(self.address))], refusal.code) from None

    def _opened(self, place: Place) -> tuple[Place, Any]:
        with told(self.address):
            if place.info.get("type") == "directory":
                raise is_folder(self.address)
            # A server of the web that gives no ranges of bytes is read as it sends the file.
            is_sent_whole = scheme_of(self.address) in WEB and not place.info.get("partial")
            return place, place.system.open(place.path, "rb", block_size=0 if is_sent_whole else PIECE)

    def read(self, size: int, /) -> bytes:
        """At most so many bytes; none at the end."""
        trouble: Exception = EOFError("the connection ended early")
        for wait in (*WAITS, None):
            try:
                if (piece := self._piece(size)) or self.size is None or self._offset >= self.size:
                    self._offset += len(piece)
                    return piece
            except Exception as error:
                trouble = error if self._file is not None else trouble
            if wait is None:
                break
            sleep(wait)
            self._again()
        raise breaks_off(self.address, trouble, self._offset, 1 + len(WAITS))

    def _piece(self, size: int) -> bytes:
        if self._file is None:
            raise ConnectionError("there is no connection")
        while self._skip:
            passed = len(self._file.read(min(self._skip, PIECE)))
            if not passed:
                raise EOFError("the connection ended early")
            self._skip -= passed
        if self._offset == 0:
            self._read_ahead()
        found: bytes = self._file.read(min(size, PIECE))
        return found

    def _again(self) -> None:
        """A new connection, at the byte where the last one broke. The file must be the one that it was."""
        self.close()
        self._file = None
        try:
            self._place, self._file = self._reached()
        except Refusal:  # it may be there the next time
            return
        if self._place.version != self._version or self._place.info.get("size") != self.size:
            raise changed(self.address)
        try:
            self._file.seek(self._offset)
            self._skip = 0
        except Exception:  # a server that gives whole files only
            self._skip = self._offset
        self._read_ahead()

    def _read_ahead(self) -> None:
        if self.size and hasattr(self._file, "prefetch"):
            from mangler.formats.remote.sftp import read_ahead

            read_ahead(self._file, self.size)

    def close(self) -> None:
        with contextlib.suppress(Exception):
            self._file.close()


def _like_named(address: str) -> str:
    """The nearest name in the folder of a file that is not there."""
    with contextlib.suppress(Refusal):
        names = [name_of(one) for one in files_in(address.rpartition("/")[0] + "/")]
        if close := nearest(name_of(address), names):
            return f"Nearest in its folder: {close[0]}."
    return ""
