"""The history: runs noted, found again, and settled after a kill."""

from __future__ import annotations

import sqlite3
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from mangler.engine.run.summary import Summary
from mangler.formats.delivery import PART_SUFFIX, FileDelivery
from mangler.history.store import FILE, FOLDER, CannotBeWrittenError, History, State, beside
from mangler.language.mistake import Refusal

ACCOUNT = Summary("r.mangler", "Glazes, é", "e.csv").to_json()


@pytest.fixture
def history(tmp_path: Path):
    opened = History.open(tmp_path / FOLDER / FILE)
    yield opened
    opened.close()


def begin(
    history: History, state: State = State.DELIVERING, recipe: str = "/r", digest: str = "d", **more
) -> int:
    return history.begin(recipe, "rd", "e.csv", digest, more.get("output"), more.get("inode"), ACCOUNT, state)


def ended_process() -> int:
    """The number of a process that is no more."""
    with subprocess.Popen([sys.executable, "-c", ""]) as process:
        process.wait()
    return process.pid


def pretend(path: Path, number: int, process: int) -> None:
    """Makes a run one of another process."""
    connection = sqlite3.connect(path)
    connection.execute("UPDATE run SET process = ? WHERE number = ?", (process, number))
    connection.commit()
    connection.close()


def test_runs_are_noted_and_found_the_latest_first(history: History) -> None:
    first, second = begin(history), begin(history, recipe="/other")
    history.end(first, State.DELIVERED, ACCOUNT)
    assert [run.number for run in history.runs()] == [second, first]
    assert [run.number for run in history.runs("/r")] == [first]
    assert len(history.runs(most=1)) == 1
    run = history.run(first)
    assert run is not None and run.state is State.DELIVERED and run.account == ACCOUNT
    assert history.run(second).account == ACCOUNT
    assert history.run(99) is None


def test_what_a_recipe_delivered_is_known_by_content(history: History) -> None:
    number = begin(history)
    assert history.delivery_of("/r", "d") is None
    history.end(number, State.DELIVERED)
    assert history.delivery_of("/r", "d").number == number
    assert history.delivery_of("/r", "other") is None
    assert history.delivery_of("/other", "d") is None
    begin(history, State.REFUSED, digest="f")
    assert history.delivery_of("/r", "f") is None


def test_a_killed_run_is_settled_by_the_file_that_is_there(tmp_path: Path) -> None:
    path = beside(tmp_path / "r.mangler")
    history = History.open(path)
    new, old = tmp_path / "new.csv", tmp_path / "old.csv"
    new.write_text("new")
    old.write_text("old")
    under_way = FileDelivery(tmp_path / "under-way.csv")
    left = tmp_path / f".left.csv.0badcafe{PART_SUFFIX}"
    left.write_text("half")
    put = begin(history, output=str(new), inode=new.stat().st_ino)
    never = begin(history, output=str(old), inode=old.stat().st_ino + 10**9)
    gone = begin(history, output=str(tmp_path / "gone.csv"), inode=1)
    killed = begin(history, output=str(tmp_path / "left.csv"), inode=left.stat().st_ino)
    working = begin(history, output=str(tmp_path / "under-way.csv"), inode=under_way.inode())
    into_pipes = [begin(history), begin(history)]
    pretend(path, into_pipes[0], ended_process())
    history.close()
    again = History.open(path)
    states = {run.number: run.state for run in again.runs()}
    assert states == {
        put: State.DELIVERED,
        never: State.BROKEN_OFF,
        gone: State.BROKEN_OFF,
        killed: State.BROKEN_OFF,
        working: State.DELIVERING,
        into_pipes[0]: State.BROKEN_OFF,
        into_pipes[1]: State.DELIVERING,
    }
    under_way.commit()
    again.close()
    once_more = History.open(path)
    found = once_more.run(working)
    assert found is not None and found.state is State.DELIVERED
    once_more.close()


def test_many_at_once_lose_nothing(tmp_path: Path) -> None:
    path = tmp_path / "h.db"

    def note(_: int) -> int:
        history = History.open(path)
        try:
            number = begin(history)
            history.end(number, State.DELIVERED)
            return number
        finally:
            history.close()

    with ThreadPoolExecutor(8) as pool:
        numbers = list(pool.map(note, range(40)))
    assert sorted(numbers) == list(range(1, 41))
    history = History.open(path)
    assert {run.state for run in history.runs()} == {State.DELIVERED}
    history.close()


def test_what_is_no_history_is_refused_and_left_alone(tmp_path: Path) -> None:
    text, other, later = tmp_path / "text.db", tmp_path / "other.db", tmp_path / "later.db"
    text.write_text("kiln;cone\n" * 100)
    connection = sqlite3.connect(other)
    connection.execute("CREATE TABLE kiln (number)")
    connection.commit()
    connection.close()
    connection = sqlite3.connect(later)
    connection.execute("PRAGMA user_version = 99")
    connection.commit()
    connection.close()
    for path, message in (
        (text, "is not a history of Mangler"),
        (other, "no history of Mangler"),
        (later, "later Mangler"),
    ):
        with pytest.raises(Refusal, match=message):
            History.open(path)
    assert text.read_text().startswith("kiln;cone")
    with pytest.raises(Refusal, match="there is no history"):
        History.open(tmp_path / "none.db", make=False)
    with pytest.raises(Refusal, match="cannot be made"):
        History.open(tmp_path / "a" / "b" / "none.db")


def test_a_full_disk_is_called_a_full_disk(history: History, monkeypatch: pytest.MonkeyPatch) -> None:
    class Full:
        def execute(self, *_: object) -> None:
            error = sqlite3.OperationalError("database or disk is full")
            error.sqlite_errorcode = sqlite3.SQLITE_FULL
            raise error

        def close(self) -> None:
            pass

    monkeypatch.setattr(history, "_connection", Full())
    with pytest.raises(Refusal, match="the disk is full") as refusal:
        begin(history)
    assert not isinstance(refusal.value, CannotBeWrittenError)
