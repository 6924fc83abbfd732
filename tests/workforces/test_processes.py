"""Processes of this machine as a workforce, and one table made by several of them."""

from __future__ import annotations

import operator
import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from tests.cli.program import mangler, said

from mangler.language.mistake import Refusal
from mangler.workforces.processes import Processes


@pytest.fixture
def processes() -> Iterator[Processes]:
    found = Processes(2)
    yield found
    found.close()


def test_outcomes_come_in_order_and_what_goes_wrong_is_raised(processes: Processes) -> None:
    assert list(processes.map_ordered(operator.neg, range(30))) == [-number for number in range(30)]
    assert list(processes.map_ordered(operator.neg, [])) == []
    with pytest.raises(TypeError):
        list(processes.map_ordered(operator.neg, [1, "a", 2]))
    pids = set(processes.map_ordered(operator.methodcaller("format"), ["a", "b"]))
    assert pids == {"a", "b"}


def test_a_process_that_is_ended_ends_the_run(processes: Processes) -> None:
    with pytest.raises(Refusal, match="was ended from outside") as met:
        list(processes.map_ordered(os._exit, [1, 1]))
    assert met.value.mistakes[0].word == "process-ended"


def test_none_is_started_where_there_is_no_work() -> None:
    idle = Processes(2)
    idle.close()
    assert list(idle.map_ordered(operator.neg, [])) == [] or idle.threads == 2
    idle.close()


def test_one_table_by_several_processes(tmp_path: Path) -> None:
    """Large extracts are divided among them, small ones and such as cannot be divided are cleaned as ever."""
    (tmp_path / "r.mangler").write_text(
        'mangler 1 "All"\ntrim *\nconvert b to integer failures aside\nsort by b descending\n'
    )
    for name, count in (("a", 200_000), ("b", 10)):
        rows = "".join(f"k{number % 7}, {number % 1000:05d} ,{'x' * 9}\n" for number in range(count))
        (tmp_path / f"{name}.csv").write_text(f"a,b,c\n{rows}k, many,x\n")
    (tmp_path / "c.jsonl").write_text('{"a": "k1", "b": "7", "d": 1}\n')
    words = ("r.mangler", "a.csv", "b.csv", "c.jsonl", "--together")
    one = mangler("run", *words, "--to", "one.csv", cwd=tmp_path)
    two = mangler("run", *words, "--to", "two.csv", "--workers", "2", cwd=tmp_path)
    assert one.returncode == two.returncode == 0, said(two)
    assert (tmp_path / "one.csv").read_bytes() == (tmp_path / "two.csv").read_bytes()
    assert (tmp_path / "one.a.aside.csv").read_bytes() == (tmp_path / "two.a.aside.csv").read_bytes()
    grown = mangler("run", *words[:-1], "--append", "one.csv", "--workers", "2", cwd=tmp_path)
    assert grown.returncode == 0 and (tmp_path / "one.csv").read_bytes().count(b"\n") == 2 * 200_011 + 1
