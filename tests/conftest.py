"""Shared by all tests: recipes from text, extracts from bytes, and runs of them in memory."""

from __future__ import annotations

import signal
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, settings
from tests.postgres_server import Server, started
from tests.storage_servers import Objects, Sftp, Web, objects_started, sftp_started, web_started

from mangler.engine.run.linked_recipe import LinkedRecipe, Result
from mangler.engine.run.options import RunOptions
from mangler.language.mistake import Refusal
from mangler.steps import VERBS

Run = Callable[..., Result]
Refused = Callable[[str, str, str], None]

# A test that fails only where the machine is slow tells nothing about the program.
settings.register_profile(
    "any machine",
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.function_scoped_fixture],
)
settings.load_profile("any machine")


@pytest.fixture
def in_a_minute() -> Iterator[None]:
    """A net under tests of what used to hang: work is what they count, and not seconds."""

    def end(number: int, frame: Any) -> None:  # noqa: ARG001
        raise TimeoutError("it hangs")

    before = signal.signal(signal.SIGALRM, end)
    signal.alarm(60)
    yield
    signal.alarm(0)
    signal.signal(signal.SIGALRM, before)


@pytest.fixture
def run(tmp_path: Path) -> Run:
    """Runs steps, given without the recipe's first line, over an extract given as bytes.

    As many rows as there are may be set aside: what is tolerated has tests of its own.
    """

    def run_steps(steps: str, extract: bytes | str, **options: Any) -> Result:
        content = extract.encode() if isinstance(extract, str) else extract
        path = tmp_path / "extract.csv"
        path.write_bytes(content)
        tolerance = "" if "tolerate" in steps else "\ntolerate 100%"
        recipe = LinkedRecipe.parse(f'mangler 1 "test"\n{steps}{tolerance}')
        result = recipe.run(path, options=RunOptions(**options))
        declared = {one.line: VERBS.declaration(one.verb).counters for one in recipe.parsed.statements}
        for line in result.summary.steps[1:]:
            assert {*line.tally.counts, *line.tally.histograms} <= set(declared[line.line]), line.text
        return result

    return run_steps


@pytest.fixture
def refused(run: Run) -> Refused:
    """Holds steps to be refused on an extract, with this in what is reported."""

    def is_refused(steps: str, extract: str, message: str) -> None:
        with pytest.raises(Refusal) as refusal:
            run(steps, extract)
        assert message in str(refusal.value), str(refusal.value)

    return is_refused


@pytest.fixture
def clean(run: Run) -> Callable[..., list[list[str | None]]]:
    """Like `run`, but gives only the cleaned rows."""

    def clean_rows(steps: str, extract: bytes | str, **options: Any) -> list[list[str | None]]:
        table = run(steps, extract, **options).table
        columns = [column.to_pylist() for column in table.columns]
        return [list(row) for row in zip(*columns, strict=True)]

    return clean_rows


@pytest.fixture(scope="session")
def postgres() -> Iterator[Server]:
    """A server of PostgreSQL of our own; each process of the tests has one."""
    with started() as server:
        yield server


@pytest.fixture(scope="session")
def sftp() -> Iterator[Sftp]:
    """A server of files by SFTP, whose key is known to the home folder of its `environment`."""
    with sftp_started() as server:
        yield server


@pytest.fixture(scope="session")
def web() -> Iterator[Web]:
    """A server of the web."""
    with web_started() as server:
        yield server


@pytest.fixture(scope="session")
def objects() -> Iterator[Objects]:
    """Object storage."""
    with objects_started() as server:
        yield server
