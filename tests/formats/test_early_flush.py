"""A file is flushed while it is written, and what goes wrong there is not lost."""

from __future__ import annotations

import errno
import os
from pathlib import Path
from threading import Event, Thread
from typing import Any

import pytest

from mangler.formats.delivery import FileDelivery
from mangler.formats.early_flush import STRETCH, EarlyFlush
from mangler.language.mistake import Refusal


@pytest.fixture
def flushed(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """The descriptors that were flushed early."""
    found: list[int] = []
    monkeypatch.setattr(os, "fdatasync", found.append)
    return found


def test_stretches_are_flushed_and_one_at_a_time(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    calls, may_end = [], Event()

    def wait(descriptor: int) -> None:
        calls.append(os.fstat(descriptor).st_size)
        may_end.wait(10)

    monkeypatch.setattr(os, "fdatasync", wait)
    with (tmp_path / "out").open("wb", buffering=0) as file:
        flush = EarlyFlush(file.fileno())
        for _ in range(3):
            file.write(b"x")
            flush.note(STRETCH)
        may_end.set()
        flush.finish()
    assert len(calls) == 1
    assert calls[0] >= 1


def test_little_is_flushed_in_the_end_only(tmp_path: Path, flushed: list[int]) -> None:
    delivery = FileDelivery(tmp_path / "out.csv")
    delivery.write(b"a\n" * 1000)
    delivery.commit()
    assert flushed == []
    assert (tmp_path / "out.csv").read_bytes() == b"a\n" * 1000


def test_a_disk_that_fails_early_keeps_what_was_there(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The system tells of a page that was lost at one flush, and not at the next."""

    def lost(_descriptor: int) -> None:
        raise OSError(errno.EIO, os.strerror(errno.EIO))

    monkeypatch.setattr(os, "fdatasync", lost)
    place = tmp_path / "out.csv"
    place.write_text("before\n")
    delivery = FileDelivery(place)
    delivery.write(bytes(STRETCH))
    with pytest.raises(Refusal, match="cannot be written"):
        delivery.commit()
    assert place.read_text() == "before\n"
    assert [one.name for one in tmp_path.iterdir()] == ["out.csv"]


def test_a_file_may_be_closed_before_the_disk_is_done(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    begun, may_end, sizes = Event(), Event(), []

    def wait(descriptor: int) -> None:
        begun.set()
        may_end.wait(10)
        sizes.append(os.fstat(descriptor).st_size)

    monkeypatch.setattr(os, "fdatasync", wait)
    delivery = FileDelivery(tmp_path / "out.csv")
    delivery.write(bytes(STRETCH))
    begun.wait(10)
    delivery.discard()
    may_end.set()
    thread = delivery._flush._thread
    assert thread is not None
    thread.join(10)
    assert sizes == [STRETCH]
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize(("owner", "name"), [(os, "dup"), (Thread, "start")])
def test_what_the_system_lacks_for_it_stops_no_run(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, flushed: list[int], owner: Any, name: str
) -> None:
    def lacking(*_: Any) -> None:
        raise OSError(errno.EMFILE, "too many") if name == "dup" else RuntimeError("can't start new thread")

    delivery = FileDelivery(tmp_path / "out.csv")
    with monkeypatch.context() as patch:
        patch.setattr(owner, name, lacking)
        delivery.write(bytes(STRETCH))
    delivery.commit()
    assert flushed == []
    assert (tmp_path / "out.csv").stat().st_size == STRETCH
