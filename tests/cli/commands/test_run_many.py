"""Several extracts in one command: into places of their own, by several processes, or all into one output."""

from __future__ import annotations

import contextlib
import json
import os
import resource
import signal
import subprocess
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from random import Random
from typing import Any

import pytest
from tests.cli.program import PROGRAM, mangler, said

from mangler.history.store import History, State
from mangler.sample.generate import write_sample

RECIPE = 'mangler 1 "Test"\ntrim *\ntolerate 100%\n'


@pytest.fixture
def sample(tmp_path: Path) -> Path:
    """The sample, with a recipe that week 20 fits, and an extract that fits none."""
    write_sample(tmp_path)
    recipe = tmp_path / "kiln-log.mangler"
    recipe.write_text(recipe.read_text("utf-8").replace(' delimiter ";"', ""), "utf-8")
    (tmp_path / "extracts" / "a-stray.csv").write_text("name;age\nInes;40\n")
    return tmp_path


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text(RECIPE)
    (tmp_path / "a.csv").write_text("kiln;cone\n007; 06 \n")
    (tmp_path / "b.csv").write_text("cone;fuel;kiln\n6;gas; 012\n10;wood;031\n")
    return tmp_path


def run_json(*words: str, cwd: Path) -> tuple[int, list[dict[str, Any]]]:
    done = mangler("run", *words, "--json", cwd=cwd)
    assert "Traceback" not in done.stderr.decode()
    return done.returncode, json.loads(done.stdout)["extracts"]


def without_seconds(said: Any) -> Any:
    if isinstance(said, dict):
        return {key: without_seconds(value) for key, value in said.items() if not key.startswith("seconds")}
    return [without_seconds(one) for one in said] if isinstance(said, list) else said


def contents(folder: Path) -> dict[str, bytes]:
    return {path.name: path.read_bytes() for path in folder.iterdir() if path.is_file()}


def test_several_processes_do_what_one_does(sample: Path) -> None:
    """Warnings too, which depend on the extracts before."""
    seen = []
    for workers in ("1", "3"):
        code, extracts = run_json(
            "kiln-log.mangler", "extracts", "--to", "out/", "--workers", workers, cwd=sample
        )
        runs = json.loads(mangler("history", "kiln-log.mangler", "--json", cwd=sample).stdout)["runs"]
        states = sorted((one["account"]["extract"], one["state"]) for one in runs)
        seen.append((code, without_seconds(extracts), contents(sample / "out"), states))
        for path in (*(sample / "out").iterdir(), *(sample / ".mangler").iterdir()):
            path.unlink()
    assert seen[0] == seen[1]
    code, extracts, files, _ = seen[0]
    assert code == 1 and len(files) == 7
    assert [one["delivered"] for one in extracts] == [False, True, True, True, True, True, False]
    assert any("values never seen" in warning for warning in extracts[3]["warnings"])


@pytest.mark.parametrize("workers", ["1", "2"])
def test_the_same_content_is_delivered_once_where_only_new_is_wanted(work: Path, workers: str) -> None:
    for name in ("c.csv", "d.csv"):
        (work / name).write_bytes((work / "a.csv").read_bytes())
    words = (
        "r.mangler",
        "a.csv",
        "b.csv",
        "c.csv",
        "d.csv",
        "--to",
        "out/",
        "--only-new",
        "--workers",
        workers,
    )
    code, extracts = run_json(*words, cwd=work)
    assert code == 0 and [one["delivered"] for one in extracts] == [True, True, False, False]
    assert sorted(contents(work / "out")) == ["a.csv", "b.csv"]


def start(folder: Path, *words: str) -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [PROGRAM, "run", "r.mangler", *words],
        cwd=folder,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        start_new_session=True,
    )


def until(come: Callable[[], object]) -> None:
    ending = time.monotonic() + 60
    while not come():
        assert time.monotonic() < ending, "it never came"
        time.sleep(0.02)


def children(process: int) -> list[int]:
    """Processes that clean: the ones that it started, except the one that keeps account of shared resources."""
    found = Path(f"/proc/{process}/task/{process}/children").read_text().split()
    return [int(one) for one in found if b"spawn_main" in Path(f"/proc/{one}/cmdline").read_bytes()]


def has_open(process: int, path: Path) -> bool:
    """Whether a process has a file open."""
    opened = Path(f"/proc/{process}/fd").iterdir()
    return any(one.readlink() == path for one in opened)


@pytest.fixture
def waiting(work: Path) -> Path:
    """An extract that is not written to its end, so that a run of it goes on until something is done."""
    os.mkfifo(work / "slow.csv")
    (work / "out").mkdir()
    (work / "out" / "slow.csv").write_text("old")
    return work


def begin(waiting: Path) -> tuple[subprocess.Popen[bytes], int]:
    """A run with two processes, one of which is at the extract that is not written to its end."""
    run = start(waiting, "slow.csv", "a.csv", "--to", "out/", "--workers", "2")
    pipe = os.open(waiting / "slow.csv", os.O_WRONLY)
    os.write(pipe, b"kiln;cone\n" + b"007; 06 \n" * 20_000)
    until((waiting / "out" / "a.csv").exists)
    until(lambda: list((waiting / "out").glob(".slow.csv.*")))
    return run, pipe


@pytest.mark.parametrize(("number", "code"), [(signal.SIGINT, 130), (signal.SIGTERM, 143)])
def test_a_run_of_several_processes_that_is_ended_leaves_nothing(
    waiting: Path, number: int, code: int
) -> None:
    run, pipe = begin(waiting)
    os.killpg(run.pid, number) if number == signal.SIGINT else run.send_signal(number)
    _, stderr = run.communicate(timeout=60)
    os.close(pipe)
    assert run.returncode == code and b"Traceback" not in stderr, stderr
    assert contents(waiting / "out") == {"slow.csv": b"old", "a.csv": b"kiln;cone\n007;06\n"}


def test_processes_end_with_the_one_that_started_them(waiting: Path) -> None:
    run, pipe = begin(waiting)
    own = children(run.pid)
    assert len(own) == 2
    run.kill()
    run.communicate(timeout=60)
    until(lambda: not any(Path(f"/proc/{one}").exists() for one in own))
    os.close(pipe)
    assert (waiting / "out" / "slow.csv").read_text() == "old"


def test_a_process_that_is_killed_costs_its_extract_only(waiting: Path) -> None:
    (waiting / "more.csv").write_text("kiln\n1\n")
    run = start(waiting, "slow.csv", "slow2.csv", "a.csv", "more.csv", "--to", "out/", "--workers", "2")
    pipe = os.open(waiting / "slow.csv", os.O_WRONLY)
    os.write(pipe, b"kiln;cone\n" + b"007; 06 \n" * 20_000)
    until((waiting / "out" / "more.csv").exists)
    [at_it] = [one for one in children(run.pid) if has_open(one, waiting / "slow.csv")]
    os.kill(at_it, signal.SIGKILL)
    _, stderr = run.communicate(timeout=60)
    os.close(pipe)
    assert run.returncode == 3 and b"Traceback" not in stderr
    assert b"the process that cleaned slow.csv was ended from outside" in stderr
    assert b"4 extracts: 2 delivered into out/, 2 not delivered" in stderr
    assert (waiting / "out" / "slow.csv").read_text() == "old"


def test_all_into_one_output(work: Path) -> None:
    code, [first, second] = run_json("r.mangler", "a.csv", "b.csv", "--to", "all.csv", "--together", cwd=work)
    assert code == 0
    assert (work / "all.csv").read_text() == "kiln;cone;fuel\n007;06;\n012;6;gas\n031;10;wood\n"
    assert first["output"] == second["output"] == "all.csv"
    assert [one["balance"]["delivered"] for one in (first, second)] == [1, 2]
    assert first["warnings"] == [
        "other extracts have more columns: this one has no column fuel, and null is there"
    ]
    assert second["warnings"] == []


def test_a_file_is_once_however_it_is_spelled(work: Path) -> None:
    code, extracts = run_json(
        "r.mangler",
        "a.csv",
        "./a.csv",
        str(work / "a.csv"),
        "*.csv",
        "--to",
        "all.tsv",
        "--together",
        cwd=work,
    )
    assert code == 0 and [one["extract"] for one in extracts] == ["a.csv", "b.csv"]
    assert (work / "all.tsv").read_text().count("\n") == 4


def test_no_room_for_the_rows_that_wait(work: Path) -> None:
    (work / "a.csv").write_text("kiln;cone\n" + "007; 06 \n" * 60_000)
    (work / "all.csv").write_text("old")
    done = subprocess.run(
        [PROGRAM, "run", "r.mangler", "a.csv", "b.csv", "--to", "all.csv", "--together"],
        cwd=work,
        capture_output=True,
        preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (100_000, 100_000)),
        timeout=60,
        check=False,
    )
    assert done.returncode == 3 and "file too large" in said(done)
    assert sorted(contents(work)) == ["a.csv", "all.csv", "b.csv", "r.mangler"]
    assert "b.csv" in said(done)


def test_an_extract_that_does_not_fit_leaves_none_of_its_rows(work: Path) -> None:
    (work / "r.mangler").write_text(f"{RECIPE}convert cone to integer\n")
    (work / "bad.csv").write_text("kiln;cone\n" + "1;2\n" * 50_000 + "1;x\n")
    words = ("r.mangler", "a.csv", "bad.csv", "--to", "all.csv", "--together")
    done = mangler("run", *words, cwd=work)
    assert done.returncode == 1 and "2 extracts: 1 delivered together into all.csv, 1 not delivered" in said(
        done
    )
    assert (work / "all.csv").read_text() == "kiln;cone\n007;6\n"
    done = mangler("run", *words, "--strict", cwd=work)
    assert done.returncode == 1
    assert "the output would be without bad.csv, which --strict does not allow" in said(done)
    assert (work / "all.csv").read_text() == "kiln;cone\n007;6\n"


def test_strict_wants_the_same_columns_of_all(work: Path) -> None:
    done = mangler(
        "run", "r.mangler", "a.csv", "b.csv", "--to", "all.csv", "--together", "--strict", cwd=work
    )
    assert done.returncode == 1 and "the extracts differ in their columns" in said(done)
    assert not (work / "all.csv").exists()
    states = [one["state"] for one in json.loads(mangler("history", "--json", cwd=work).stdout)["runs"]]
    assert states == ["refused", "refused"]


def test_rows_set_aside_have_a_file_for_each_extract(work: Path) -> None:
    (work / "more").mkdir()
    for path in (work / "a.csv", work / "more" / "a.csv"):
        path.write_text("kiln;cone\n007;06\n012\n")
    words = ("r.mangler", "a.csv", "more/a.csv", "b.csv", "--to", "all.csv.gz", "--together")
    code, extracts = run_json(*words, cwd=work)
    names = [f"all.{work.name}-a.aside.csv", "all.more-a.aside.csv", None]
    assert code == 0 and [one["aside"] for one in extracts] == names
    assert (work / "all.more-a.aside.csv").read_text().splitlines()[1].startswith("more/a.csv;2;")
    code, extracts = run_json(*words, "--aside", "set-aside", cwd=work)
    assert code == 0 and extracts[1]["aside"] == "set-aside/all.more-a.aside.csv"


def test_together_into_a_pipe_and_in_a_rehearsal(work: Path) -> None:
    done = mangler("run", "r.mangler", "a.csv", "-", "--together", cwd=work, stdin=b"kiln\n 1\n2")
    assert done.stdout == b"kiln;cone\n007;06\n1;\n2;"
    done = mangler("run", "r.mangler", "a.csv", "b.csv", "--together", "--rehearse", cwd=work)
    assert done.returncode == 0 and "2 extracts: 2 rehearsed" in said(done)
    assert "this one has no column fuel" in said(done)
    assert sorted(contents(work)) == ["a.csv", "b.csv", "r.mangler"]


def test_columns_that_come_of_the_rows_are_together_too(work: Path) -> None:
    (work / "r.mangler").write_text("mangler 1\npivot fuel into columns of made\n")
    (work / "a.csv").write_text("kiln;fuel;made\n1;gas;3\n1;wood;4\n")
    (work / "b.csv").write_text("kiln;fuel;made\n2;oil;5\n2;gas;6\n")
    assert run_json("r.mangler", "a.csv", "b.csv", "--to", "all.csv", "--together", cwd=work)[0] == 0
    assert (work / "all.csv").read_text() == "kiln;gas;wood;oil\n1;3;4;\n2;6;;5\n"


@pytest.mark.parametrize(
    ("words", "message"),
    [
        (("a.csv", "--to", "out/", "--together"), "out/ is a folder, and --together writes one file"),
        (("a.csv", "-", "--to", "out/", "--workers", "2"), "cannot be shared among --workers"),
        (("a.csv", "b.csv", "--to", "b.csv", "--together"), "b.csv is an extract of this command"),
        (("a.csv", "--to", "b.csv", "--together", "--only-new"), "only what is new would be in it"),
        (("a.csv", "b.csv", "--to", "o.csv", "--together", "--aside", "a.csv"), "a.csv is a file"),
    ],
)
def test_what_cannot_be_asked(work: Path, words: tuple[str, ...], message: str) -> None:
    before = contents(work)
    done = mangler("run", "r.mangler", *words, cwd=work)
    assert done.returncode == 2 and message in said(done)
    assert {name: text for name, text in contents(work).items() if name in before} == before


def test_two_runs_at_once_into_one_folder_do_not_mix(work: Path) -> None:
    for name in "abc":
        (work / f"{name}.csv").write_text("kiln;cone\n" + f"{name}; 06 \n" * 60_000)
    runs = [start(work, "a.csv", "b.csv", "c.csv", "--to", "out/", "--workers", workers) for workers in "12"]
    ended = [(run.communicate(timeout=120)[1], run.returncode) for run in runs]
    for stderr, code in ended:
        assert code == 0 or (code == 3 and b"is being written by another run" in stderr), stderr
    for name, content in contents(work / "out").items():
        assert content == b"kiln;cone\n" + f"{name[0]};06\n".encode() * 60_000
    noted = json.loads(mangler("history", "--json", cwd=work).stdout)["runs"]
    assert {one["state"] for one in noted} <= {"delivered", "refused"}
    assert {one["account"]["extract"] for one in noted if one["state"] == "delivered"} == {
        "a.csv",
        "b.csv",
        "c.csv",
    }


EXTRACTS, KILLS, AT_ONCE = 5, 100, 2


def wait_for_outputs(run: subprocess.Popen[bytes], out: Path, count: int) -> None:
    """Until so many outputs are new, or the run has ended."""
    while run.poll() is None and sum(path.stat().st_size > 3 for path in out.glob("*.csv")) < count:
        time.sleep(0.001)


def settled(path: Path) -> list[tuple[str, State]]:
    """What the history knows of each extract, once the system has finished with the killed ones."""
    ending = time.monotonic() + 30
    while True:
        history = History.open(path)
        states = [(Path(one.account["extract"]).name, one.state) for one in history.runs()]
        history.close()
        if State.DELIVERING not in (state for _, state in states) or time.monotonic() > ending:
            return states
        time.sleep(0.05)


def test_killed_at_any_moment_files_are_whole_and_the_history_agrees(tmp_path: Path) -> None:
    """Five extracts, killed a hundred times: each output is the old file or the new, and the history knows which.

    One half of the runs is a single process, the other has two of them for the extracts.
    """

    def kill_in(folder: Path) -> list[int]:
        folder.mkdir()
        (folder / "r.mangler").write_text(RECIPE)
        (folder / "in").mkdir()
        for number in range(EXTRACTS):
            rows = "".join(f" {number} , {row}\n" for row in range(3_000))
            (folder / "in" / f"{number}.csv").write_text(f"kiln,cone\n{rows}")
        words = [PROGRAM, "run", "r.mangler", "in", "--to", "out", "--quiet", "--workers", folder.name]
        (folder / "out").mkdir()
        started = time.monotonic()
        subprocess.run(words, cwd=folder, check=True, timeout=120)
        whole = time.monotonic() - started
        new = {path.name: path.read_bytes() for path in (folder / "out").iterdir()}
        assert len(new) == EXTRACTS
        random, delivered = Random(folder.name), []
        for number in range(KILLS // AT_ONCE):
            for path in (folder / ".mangler").iterdir():
                path.unlink()
            for path in (folder / "out").iterdir():
                path.unlink()
            for name in new:
                (folder / "out" / name).write_bytes(b"old")
            with subprocess.Popen(words, cwd=folder, start_new_session=True) as run:
                if number % EXTRACTS == 0:
                    time.sleep(random.uniform(0.2, 0.9) * whole)
                wait_for_outputs(run, folder / "out", number % EXTRACTS)
                time.sleep(random.uniform(0, 0.05))
                with contextlib.suppress(ProcessLookupError):  # it was faster
                    os.killpg(run.pid, signal.SIGKILL)
                run.wait(60)
            states = settled(folder / ".mangler" / "history.db")
            found = {name: (folder / "out" / name).read_bytes() for name in new}
            assert all(content in (b"old", new[name]) for name, content in found.items())
            there = {name for name, content in found.items() if content != b"old"}
            assert {name for name, state in states if state is State.DELIVERED} == there
            assert {state for _, state in states} <= {State.DELIVERED, State.BROKEN_OFF}
            delivered.append(len(there))
        subprocess.run(words, cwd=folder, check=True, timeout=120)
        assert {path.name: path.read_bytes() for path in (folder / "out").iterdir()} == new
        return delivered

    with ThreadPoolExecutor(AT_ONCE) as pool:
        counts = [
            count
            for one in pool.map(kill_in, [tmp_path / f"{n}" for n in range(1, AT_ONCE + 1)])
            for count in one
        ]
    assert len(counts) == KILLS
    assert len(set(counts)) > 2, "the kills all fell in the same moment"
