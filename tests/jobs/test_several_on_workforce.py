"""Several extracts at once over a cluster: the same outputs, verdicts and history as one by one."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import time
from pathlib import Path

import pytest
from tests.cli.program import PROGRAM, mangler, said

EXTRACTS = 14


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text(
        'mangler 1 "Many"\nread nulls ""\ntrim *\nconvert made to integer failures aside\nsort by made\ntolerate 50%\n'
    )
    (tmp_path / "in").mkdir()
    for number in range(EXTRACTS):
        rows = "".join(f" k{row % 5} ,{row * number % 17}\n" for row in range(200 + 40 * number))
        (tmp_path / "in" / f"week-{number:02d}.csv").write_text(f"kiln,made\n{rows}k, many\n")
    (tmp_path / "in" / "week-05.csv").write_text("kiln\n1\n")
    (tmp_path / "in" / "week-07.jsonl").write_text('{"kiln": "a", "made": "4"}\n' * 30)
    (tmp_path / "in" / "week-08.csv").write_bytes((tmp_path / "in" / "week-09.csv").read_bytes())
    return tmp_path


def contents(folder: Path) -> dict[str, bytes]:
    return {path.name: path.read_bytes() for path in folder.iterdir()}


def told(work: Path, *words: str) -> list[dict]:
    done = mangler("run", "r.mangler", "in", "--json", *words, cwd=work)
    accounts = json.loads(done.stdout)["extracts"]
    for account in accounts:
        for one in [account, *([account["writing"], *account["steps"]] if "steps" in account else [])]:
            one.pop("seconds", None)
        account.pop("seconds_setting_aside", None)
        for name in ("output", "aside"):
            account[name] = Path(account[name] or "").name if name in account else None
        if "steps" in account:
            remarks = account["steps"][0]["remarks"]
            account["steps"][0]["remarks"] = [one for one in remarks if "worked on in one place" not in one]
    assert done.returncode == 1
    return accounts


def test_as_one_by_one(work: Path) -> None:
    one_by_one = told(work, "--to", "one/", "--history", "one.db")
    at_once = told(work, "--to", "two/", "--history", "two.db", "--cluster", "local:2")
    assert at_once == one_by_one and len(at_once) == EXTRACTS + 1
    assert contents(work / "two") == contents(work / "one")
    states = [
        sorted((run["account"]["extract"], run["state"], run["extract_digest"]) for run in runs)
        for name in ("one.db", "two.db")
        for runs in [json.loads(mangler("history", "--history", name, "--json", cwd=work).stdout)["runs"]]
    ]
    assert states[0] == states[1]


def test_only_what_is_new(work: Path) -> None:
    """Of two with the same content one is delivered and one is skipped, as one by one."""
    words = ("run", "r.mangler", "in", "--to", "out/", "--only-new", "--cluster", "local:2")
    first, again = (said(mangler(*words, cwd=work)) for _ in range(2))
    assert f"{EXTRACTS + 1} extracts: 13 delivered into out/, 1 not delivered, 1 skipped" in first
    assert f"{EXTRACTS + 1} extracts: 0 delivered, 1 not delivered, 14 skipped" in again


def test_interrupted_in_the_middle(work: Path) -> None:
    words = [PROGRAM, "run", "r.mangler", "in", "--to", "out/", "--quiet", "--cluster", "local:2"]
    with subprocess.Popen(words, cwd=work, stderr=subprocess.PIPE, start_new_session=True) as run:
        until = time.monotonic() + 60
        while time.monotonic() < until and len(list((work / "out").glob("week*"))) < 3:
            time.sleep(0.005)
        os.killpg(run.pid, signal.SIGINT)
        _, stderr = run.communicate(timeout=60)
    assert run.returncode in (1, 130) and b"Traceback" not in stderr
    assert not list((work / "out").glob(".*part"))
    done = mangler("run", "r.mangler", "in", "--to", "out/", "--only-new", cwd=work)
    assert done.returncode == 1
    delivered = {path.name for path in (work / "out").iterdir() if ".aside" not in path.name}
    assert len(delivered) >= 13
