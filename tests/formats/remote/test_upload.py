"""Files put in their places elsewhere whole or not at all."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from tests.storage_servers import Sftp

from mangler.formats.delivery import PART_SUFFIX
from mangler.formats.remote.upload import put, writable
from mangler.language.mistake import Refusal


@pytest.fixture
def folder(sftp: Sftp, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("HOME", str(sftp.home))
    found = sftp.folder / tmp_path.name
    found.mkdir()
    return found


def test_nothing_but_the_file_is_left(sftp: Sftp, folder: Path, tmp_path: Path) -> None:
    own = tmp_path / "own.csv"
    own.write_bytes(b"a\n1\n")
    (folder / "o.csv").write_bytes(b"before")
    put(own, writable(sftp.address(f"{folder.name}/o.csv")))
    assert {path.name: path.read_bytes() for path in folder.iterdir()} == {"o.csv": b"a\n1\n"}


def test_what_ended_long_ago_is_cleared(sftp: Sftp, folder: Path) -> None:
    old, new, other = (
        folder / f".{name}{PART_SUFFIX}" for name in ("o.csv.12ab", "o.csv.34cd", "p.csv.12ab")
    )
    for path in (old, new, other):
        path.write_bytes(b"part")
    for path in (old, other):
        os.utime(path, (1, 1))
    writable(sftp.address(f"{folder.name}/o.csv"))
    assert not old.exists() and new.exists() and other.exists()


def test_a_file_that_does_not_arrive_whole(
    sftp: Sftp, folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    own = tmp_path / "own.csv"
    own.write_bytes(b"a\n1\n")
    there = writable(sftp.address(f"{folder.name}/o.csv"))
    monkeypatch.setattr(there.system, "put_file", lambda _, path: Path(path).write_bytes(b"a"))
    with pytest.raises(Refusal, match="1 of 4 bytes arrived"):
        put(own, there)
    assert not any(folder.iterdir())


def test_a_folder_that_is_not_there(sftp: Sftp, folder: Path) -> None:
    with pytest.raises(Refusal, match=r"the folder .* does not exist there"):
        writable(sftp.address(f"{folder.name}/none/o.csv"))
    with pytest.raises(Refusal, match="it is a folder"):
        writable(sftp.address(folder.name))
