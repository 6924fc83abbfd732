"""A file elsewhere as a stream of bytes, whose connection may break."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import pytest
from tests.storage_servers import Sftp

from mangler.formats.remote import stream
from mangler.formats.remote.stream import RemoteStream
from mangler.language.mistake import Refusal

CONTENT = bytes(range(256)) * 40_000


@pytest.fixture
def served(sftp: Sftp, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> tuple[str, Path]:
    monkeypatch.setenv("HOME", str(sftp.home))
    monkeypatch.setattr(stream, "WAITS", (0.0, 0.0))
    path = sftp.folder / f"{tmp_path.name}.bin"
    path.write_bytes(CONTENT)
    return sftp.address(path.name), path


def everything(file: Any) -> bytes:
    pieces = []
    while piece := file.read(100_000):
        pieces.append(piece)
    return b"".join(pieces)


def test_all_bytes_come_once(served: tuple[str, Path]) -> None:
    file = RemoteStream(served[0])
    assert file.size == len(CONTENT)
    assert everything(file) == CONTENT
    assert file.read(10) == b""
    file.close()


def test_it_goes_on_where_it_broke(served: tuple[str, Path]) -> None:
    file = RemoteStream(served[0])
    start = file.read(1_000_000)
    file._place.system.client.close()
    assert start + everything(file) == CONTENT
    file.close()


def test_a_file_that_changes_is_refused(served: tuple[str, Path]) -> None:
    file = RemoteStream(served[0])
    file.read(1_000_000)
    os.utime(served[1], (1, 1))
    file._place.system.client.close()
    with pytest.raises(Refusal, match="was changed while it was read"):
        everything(file)
    file.close()


def test_a_file_that_is_gone_is_refused_after_some_tries(served: tuple[str, Path]) -> None:
    file = RemoteStream(served[0])
    file.read(1_000_000)
    served[1].unlink()
    file._place.system.client.close()
    with pytest.raises(Refusal, match="tried 3 times"):
        everything(file)
    file.close()
