"""A cluster as a workforce: workers that are lost, that are unlike, and schedulers that are not there."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest import mock

import pytest
from tests.cli.program import PROGRAM, mangler, said

import mangler as library
from mangler.engine.run import piece_work
from mangler.engine.run.options import RunOptions
from mangler.formats import dividing
from mangler.language.mistake import ExitCode, Refusal
from mangler.workforces.cluster import Cluster, open_cluster

STAGES = ("trim *", "sort by b descending", "number rows as n", "group by a with n = count(), m = max(b)")


@pytest.fixture
def cluster() -> Iterator[Cluster]:
    found = open_cluster("local:3")
    root = str(Path(__file__).parents[2])
    found.client.run(lambda: __import__("sys").path.append(root))  # functions of these tests are called there
    yield found
    found.close()


@pytest.fixture
def extract(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setattr(dividing, "FEW", 1)
    monkeypatch.setattr(dividing, "SMALLEST", 8192)
    path = tmp_path / "e.csv"
    path.write_text("a,b\n" + "".join(f"k{number % 7}, {number} \n" for number in range(60_000)))
    return path


def test_outcomes_come_in_order_whatever_takes_longer(cluster: Cluster) -> None:
    assert list(cluster.map_ordered(_late, range(20))) == [number * 2 for number in range(20)]
    assert list(cluster.map_ordered(_late, [])) == []
    with pytest.raises(ZeroDivisionError):
        list(cluster.map_ordered(_not_two, range(5)))


def _late(number: int) -> int:
    time.sleep(0.02 * (number % 3 == 0))
    return number * 2


def _not_two(number: int) -> float:
    return 1 / (number - 2)


@pytest.mark.parametrize("steps", STAGES)
def test_a_worker_is_killed_and_the_run_ends_well(extract: Path, cluster: Cluster, steps: str) -> None:
    """At some moment of the run, in the survey, in the steps or while rows are gathered."""
    recipe, to = library.Recipe.parse(f"mangler 1\n{steps}\n"), extract.with_name("out.csv")
    recipe.run(extract, to=to)
    wanted = to.read_bytes()
    for moment in (0.0, 0.15, 0.4):
        to.unlink()
        killer = threading.Timer(moment, _kill_one, [cluster])
        killer.start()
        recipe.core.run(extract, to, None, RunOptions(workforce=cluster))
        killer.join()
        assert to.read_bytes() == wanted


def test_a_file_that_steps_look_into_is_sent_to_the_workers(extract: Path, cluster: Cluster) -> None:
    """A large one once to each of them."""
    recipe = extract.with_name("r.mangler")
    recipe.write_text("mangler 1\nlookup 'kilns.csv' on a bring fuel unmatched null\n")
    for count in (5, 120_000):
        rows = "".join(f"k{number},gas {number}\n" for number in range(count))
        extract.with_name("kilns.csv").write_text(f"a,fuel\n{rows}")
        loaded = library.Recipe.load(recipe)
        wanted = loaded.run(extract).table
        result = loaded.core.run(extract, None, None, RunOptions(workforce=cluster))
        assert result.table.equals(wanted) and wanted.column("fuel").null_count == (
            17_142 if count == 5 else 0
        )


def _kill_one(cluster: Cluster) -> None:
    """Whichever answers; one that was killed just before may not."""
    for _ in range(50):
        with contextlib.suppress(Exception):
            pids = list(cluster.client.run(os.getpid).values())
            os.kill(pids[0], signal.SIGKILL)
            return
        time.sleep(0.05)


def test_work_that_kills_every_worker_ends_the_run(cluster: Cluster) -> None:
    with pytest.raises(Refusal, match="a worker was lost") as met:
        list(cluster.map_ordered(os._exit, [1]))
    assert met.value.mistakes[0].word == "worker-lost"


class _OnePiece:
    """A workforce that notes the work, and does not do it."""

    threads, memory = 2, None

    def __init__(self) -> None:
        self.work: Any = None
        self.pieces: list[Any] = []

    def map_ordered(self, function: Any, items: Any) -> Iterator[Any]:
        if isinstance(function, piece_work.PieceWork):
            self.work, self.pieces = function, list(items)
            raise Refusal([], ExitCode.ANSWER_IS_NO)
        return map(function, items)


@pytest.fixture
def work(extract: Path) -> _OnePiece:
    noted = _OnePiece()
    with pytest.raises(Refusal):
        library.Recipe.parse("mangler 1\n").core.run(
            extract, extract.with_name("o.csv"), None, RunOptions(workforce=noted)
        )
    assert len(noted.pieces) > 3
    return noted


def test_workers_say_what_they_lack(work: _OnePiece, extract: Path) -> None:
    piece, task = work.pieces[1], work.work
    assert sum(len(one.rows_out.content) for one in task(piece).partitions) > 0
    for wrong, message in (
        (replace(task, version="0.0.7"), "0.0.7 is needed"),
        (replace(task, extract=f"{extract}.not"), "cannot read .*No such file"),
        (replace(task, size=5), "has another .*, of .* bytes, where 5 are expected"),
    ):
        with pytest.raises(Refusal, match=message) as met:
            wrong(piece)
        assert met.value.mistakes[0].word == "worker-unlike"
        assert "same version of Mangler" in met.value.mistakes[0].advice


def test_a_worker_with_another_version_or_without_mangler_is_refused_at_once() -> None:
    client = mock.Mock()
    client.run.return_value = {"tcp://w": "9.9"}
    with pytest.raises(Refusal, match=r"the worker at tcp://w has Mangler 9\.9, and this is "):
        Cluster(client)
    client.run.side_effect = ModuleNotFoundError("no", name="mangler")
    with pytest.raises(Refusal, match="a worker has no module mangler"):
        Cluster(client)


def test_a_client_that_is_closed_while_it_works() -> None:
    found = open_cluster("local:1")
    outcomes = found.map_ordered(abs, range(100))
    assert next(outcomes) == 0
    found.client.close()
    with pytest.raises(Refusal, match="does not answer any more"):
        list(outcomes)
    found.close()


@pytest.mark.parametrize(
    ("address", "word", "message"),
    [
        ("local:0", "cluster-address", "how many worker processes"),
        ("local:many", "cluster-address", "how many worker processes"),
        ("scheduler:8786", "cluster-address", "no address of a scheduler"),
        ("tcp://127.0.0.1:1", "cluster-not-there", "no scheduler answers"),
    ],
)
def test_wrong_addresses(address: str, word: str, message: str) -> None:
    with mock.patch("mangler.workforces.cluster.PATIENCE", 1), pytest.raises(Refusal, match=message) as met:
        open_cluster(address)
    assert met.value.mistakes[0].word == word


def test_a_scheduler_without_workers_and_a_client_of_ones_own(extract: Path) -> None:
    import distributed

    with distributed.LocalCluster(  # type: ignore[no-untyped-call]
        n_workers=0, dashboard_address="127.0.0.1:0", host="127.0.0.1"
    ) as own:
        with pytest.raises(Refusal, match="has no workers"):
            open_cluster(own.scheduler_address)
        own.scale(2)
        with distributed.Client(own) as client:  # type: ignore[no-untyped-call]
            client.wait_for_workers(2)
            recipe = library.Recipe.parse("mangler 1\ntrim *\nsort by b\n")
            spread_out = recipe.run(extract, cluster=client)
            assert spread_out.table.equals(recipe.run(extract).table)
            assert client.status == "running"  # it is the caller's


def test_without_the_library_the_line_that_installs_it() -> None:
    with (
        mock.patch("mangler.workforces.cluster.import_module", side_effect=ImportError),
        pytest.raises(Refusal, match="needs the library") as met,
    ):
        open_cluster("local:2")
    assert "mangler[cluster]" in met.value.mistakes[0].advice


def test_a_plain_run_does_not_load_it(tmp_path: Path) -> None:
    (tmp_path / "r.mangler").write_text("mangler 1\ntrim *\n")
    (tmp_path / "e.csv").write_text("a\n1\n")
    code = (
        "import sys, mangler; mangler.Recipe.load('r.mangler').run('e.csv', to='o.csv');"
        "print([name for name in sys.modules if name.split('.')[0] in ('distributed', 'dask')])"
    )
    done = subprocess.run([sys.executable, "-c", code], cwd=tmp_path, capture_output=True, check=True)
    assert done.stdout.strip() == b"[]"


@pytest.fixture
def large(tmp_path: Path) -> Path:
    """One that the program divides."""
    (tmp_path / "r.mangler").write_text('mangler 1 "Large"\ntrim *\nsort by b\ntolerate 100%\n')
    rows = "".join(f"k{number % 7}, {number % 1000:05d} ,\n" for number in range(300_000))
    (tmp_path / "e.csv").write_text(f"a,b,c\n{rows}only one\n")
    return tmp_path


def test_the_program_over_a_cluster(large: Path) -> None:
    """Rows set aside, drift and history as ever; several extracts too."""
    for options, name in (((), "one.csv"), (("--cluster", "local:2"), "two.csv")):
        done = mangler("run", "r.mangler", "e.csv", "--to", name, *options, cwd=large)
        assert done.returncode == 0 and "1 extract row set aside" in said(done)
        assert "worked on in one place" not in said(done)
    assert (large / "one.csv").read_bytes() == (large / "two.csv").read_bytes()
    assert (large / "one.aside.csv").read_bytes() == (large / "two.aside.csv").read_bytes()
    shown = mangler(
        "run", "r.mangler", "e.csv", "--to", "x/", "--only-new", "--cluster", "local:1", cwd=large
    )
    assert shown.returncode == 3 or "is skipped: run" in said(shown)
    (large / "f.csv").write_text("a,b,c\nk1,1,\n")
    several = mangler(
        "run",
        "r.mangler",
        "e.csv",
        "f.csv",
        "--to",
        "all.csv",
        "--together",
        "--cluster",
        "local:2",
        cwd=large,
    )
    assert several.returncode == 0 and (large / "all.csv").read_bytes().count(b"\n") == 300_002
    runs = library.Recipe.load(large / "r.mangler").check(
        large / "e.csv", history=large / ".mangler/history.db"
    )
    assert not runs.findings
    done = mangler(
        "run", "r.mangler", "e.csv", "--to", "o.csv", "--cluster", "local:2", "--workers", "2", cwd=large
    )
    assert done.returncode == 2 and "--cluster has workers of its own" in said(done)


def test_the_coordinator_is_killed(large: Path) -> None:
    (large / "out.csv").write_text("old")
    words = [PROGRAM, "run", "r.mangler", "e.csv", "--to", "out.csv", "--quiet", "--cluster", "local:2"]
    with subprocess.Popen(words, cwd=large, stderr=subprocess.DEVNULL) as run:
        until = time.monotonic() + 60
        while time.monotonic() < until and not list(large.glob(".out.csv.*")):
            time.sleep(0.01)
        run.send_signal(signal.SIGKILL)
    assert (large / "out.csv").read_text() == "old"
    done = mangler("run", "r.mangler", "e.csv", "--to", "out.csv", "--quiet", cwd=large)
    assert done.returncode == 0 and not list(large.glob(".out.csv.*"))
    assert (large / "out.csv").read_text().count("\n") == 300_001


def test_interrupted_by_the_keyboard(large: Path) -> None:
    """All processes of the terminal hear of it, and one of them answers."""
    words = [PROGRAM, "run", "r.mangler", "e.csv", "--to", "out.csv", "--quiet", "--cluster", "local:2"]
    with subprocess.Popen(words, cwd=large, stderr=subprocess.PIPE, start_new_session=True) as run:
        until = time.monotonic() + 60
        while time.monotonic() < until and not list(large.glob(".out.csv.*")):
            time.sleep(0.01)
        os.killpg(run.pid, signal.SIGINT)
        _, stderr = run.communicate(timeout=60)
    assert run.returncode == 130, stderr.decode()
    assert stderr.decode() == "Interrupted: what was not delivered yet is as it was before.\n"
    assert not list(large.glob("*out.csv*"))
