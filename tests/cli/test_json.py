"""The shapes of `--json` are as docs/json.md promises."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from tests.cli.program import mangler

DOCUMENT = (Path(__file__).parents[2] / "docs" / "json.md").read_text("utf-8")
TOLD = set(re.findall(r"`([^`]*)`", DOCUMENT))
RECIPE = """mangler 1 "Test"
read delimiter ";"
keep rows where kiln != "x"
test
  kiln
  x
  becomes
  kiln
  y
"""


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text(RECIPE)
    (tmp_path / "wrong.mangler").write_text("mangler 1\ntrimm a\n")
    (tmp_path / "a.csv").write_text("kiln;cone\n007; 06\nx;6\n031\n")
    return tmp_path


def keys(answer: Any, parent: str = "") -> Iterator[str]:
    """Every key of an answer, except for the names of columns and of what was detected."""
    if isinstance(answer, dict):
        for key, value in answer.items():
            if parent not in ("before", "after", "found_out"):
                yield key
            yield from keys(value, key)
    elif isinstance(answer, list):
        for item in answer:
            yield from keys(item, parent)


@pytest.mark.parametrize(
    "words",
    [
        ("run", "r.mangler", "a.csv", "--to", "o.csv"),
        ("run", "wrong.mangler", "a.csv", "--to", "o.csv"),
        ("look", "a.csv", "--where", "kiln = 'x'"),
        ("profile", "a.csv"),
        ("draft", "a.csv"),
        ("try", "a.csv", "trim cone", "make n = integer(cone)", "drop rows where kiln = 'x'", "--all"),
        ("try", "--given", "a = 1", "a + 1"),
        ("test", "r.mangler", "wrong.mangler"),
        ("format", "--check", "r.mangler", "wrong.mangler"),
    ],
    ids=lambda words: " ".join(words[:2]),
)
def test_every_key_is_documented(work: Path, words: tuple[str, ...]) -> None:
    done = mangler(*words, "--json", cwd=work)
    answer = json.loads(done.stdout)
    assert done.returncode in (0, 1, 2)
    assert set(keys(answer)) <= TOLD, set(keys(answer)) - TOLD
    assert "\x1b" not in done.stdout.decode()


def test_every_key_of_past_runs_is_documented(work: Path) -> None:
    (work / "plain.mangler").write_text('mangler 1 "Plain"\n')
    words = ("run", "plain.mangler", "a.csv", "--to", "o.csv", "--only-new")
    mangler("run", "wrong.mangler", "a.csv", "--to", "o.csv", cwd=work)
    mangler(*words, cwd=work)
    (work / "b.csv").write_text("kiln,peak\n")
    for again in (
        words,
        ("history",),
        ("history", "show", "1"),
        ("check", "plain.mangler", "a.csv", "b.csv"),
    ):
        answer = json.loads(mangler(*again, "--json", cwd=work).stdout)
        assert set(keys(answer)) <= TOLD, set(keys(answer)) - TOLD
