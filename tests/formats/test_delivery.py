from __future__ import annotations

import os
import stat
from pathlib import Path

import pytest

from mangler.formats.delivery import (
    PART_SUFFIX,
    FileDelivery,
    StreamDelivery,
    deliver_to,
    take_unfinished_away,
)
from mangler.language.mistake import ExitCode, Refusal


def test_nothing_is_there_before_the_commit(tmp_path: Path) -> None:
    target = tmp_path / "clean.csv"
    target.write_text("old")
    delivery = FileDelivery(target)
    delivery.write(b"new")
    assert target.read_text() == "old"
    delivery.commit()
    assert target.read_text() == "new"
    assert list(tmp_path.iterdir()) == [target]
    delivery.discard()
    assert target.read_text() == "new"


def test_discarded_it_leaves_everything_as_it_was(tmp_path: Path) -> None:
    target = tmp_path / "clean.csv"
    delivery = FileDelivery(target)
    delivery.write(b"new")
    delivery.discard()
    assert not list(tmp_path.iterdir())


def test_a_part_left_by_a_killed_run_goes_and_those_of_other_places_stay(tmp_path: Path) -> None:
    target = tmp_path / "clean.csv"
    stale = tmp_path / f".clean.csv.0badcafe{PART_SUFFIX}"
    stale.write_text("half")
    other = tmp_path / f".other.csv.0badcafe{PART_SUFFIX}"
    other.write_text("half")
    delivery = FileDelivery(target)
    assert not stale.exists() and other.exists()
    delivery.write(b"whole")
    delivery.commit()
    assert target.read_bytes() == b"whole"


def test_a_part_that_nobody_holds_goes_at_the_end_of_the_process(tmp_path: Path) -> None:
    delivery = FileDelivery(tmp_path / "clean.csv")
    assert len(list(tmp_path.iterdir())) == 1
    take_unfinished_away()
    assert not list(tmp_path.iterdir())
    delivery.discard()


def test_permissions_and_links_are_kept(tmp_path: Path) -> None:
    target = tmp_path / "real.csv"
    target.write_text("old")
    target.chmod(0o640)
    link = tmp_path / "link.csv"
    link.symlink_to(target)
    delivery = FileDelivery(link)
    delivery.write(b"new")
    delivery.commit()
    assert link.is_symlink()
    assert target.read_text() == "new"
    assert stat.S_IMODE(target.stat().st_mode) == 0o640


def test_places_that_cannot_be_written(tmp_path: Path) -> None:
    for path, message in ((tmp_path / "no" / "x.csv", "does not exist"), (tmp_path, "it is a folder")):
        with pytest.raises(Refusal, match=message) as refused:
            FileDelivery(path)
        assert refused.value.code is ExitCode.FILE_TROUBLE


def test_a_device_is_written_only_after_success(tmp_path: Path) -> None:
    fifo = tmp_path / "pipe"
    os.mkfifo(fifo)
    delivery = deliver_to(fifo)
    delivery.write(b"rows")
    reader = os.open(fifo, os.O_RDONLY | os.O_NONBLOCK)
    delivery.commit()
    assert os.read(reader, 10) == b"rows"
    os.close(reader)


@pytest.mark.skipif(not Path("/dev/full").exists(), reason="the device that is always full is Linux's")
def test_a_full_device_is_reported() -> None:
    delivery = StreamDelivery("standard output", Path("/dev/full"))
    delivery.write(b"rows")
    with pytest.raises(Refusal, match="no space left"):
        delivery.commit()


def test_no_second_run_writes_to_the_same_place(tmp_path: Path) -> None:
    target = tmp_path / "clean.csv"
    first = FileDelivery(target)
    with pytest.raises(Refusal, match=r"clean\.csv is being written by another run"):
        FileDelivery(target)
    other = FileDelivery(tmp_path / "other.csv")
    first.write(b"first")
    first.commit()
    second = FileDelivery(target)
    second.write(b"second")
    second.commit()
    other.discard()
    assert target.read_bytes() == b"second"
    assert [path.name for path in tmp_path.iterdir()] == ["clean.csv"]


def test_a_replaced_file_keeps_who_may_read_it_and_no_right_to_run_as_its_owner(tmp_path: Path) -> None:
    target = tmp_path / "clean.csv"
    target.write_text("old")
    target.chmod(0o6750)
    delivery = FileDelivery(target)
    delivery.write(b"new")
    delivery.commit()
    assert stat.S_IMODE(target.stat().st_mode) == 0o750


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can give a file to somebody")
def test_a_replaced_file_keeps_its_owner_where_we_may_set_it(tmp_path: Path) -> None:
    target = tmp_path / "clean.csv"
    target.write_text("old")
    os.chown(target, 65534, 65533)
    delivery = FileDelivery(target)
    delivery.write(b"new")
    delivery.commit()
    assert (target.stat().st_uid, target.stat().st_gid) == (65534, 65533)
