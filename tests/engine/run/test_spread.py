"""An extract spread over worker processes: the same bytes as on one machine, for every kind of step."""

from __future__ import annotations

import gzip
import json
from collections.abc import Iterator
from pathlib import Path
from random import Random
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import mangler
from mangler.engine.run.options import RunOptions
from mangler.formats import dividing
from mangler.workforces.cluster import Cluster, open_cluster

ROWS = 1500
FILES = ("t.csv", "ragged.csv", "t.parquet", "t.jsonl", "unlike.jsonl")
STEPS = (
    "trim *",
    "replace 'x' with 'y' in b",
    "drop rows where a = 'k3'",
    "set aside rows where a = 'k4' because 'it was test firing'",
    "convert n to integer failures aside",
    "split b at ';' into rows",
    "split b at ';' into c, d? in place too few '1' too many unsplit",
    "make c = extract_row(), f = extract_file()",
    "sort by b descending, a",
    "dedupe by a, b",
    "dedupe by a leaving last",
    "group by a with n = count(), all = join(distinct b, '+')",
    "number rows as z from 5",
    "keep first 400 rows",
    "keep last 300 rows",
    "fill b down",
    "fill b up within a",
    "pivot a into columns of n with join(n, '+') failures null",
    "make p = previous(b), r = running(count()) within a sorted by b",
    "require one row per a, b failures warn",
    "require overall count(b) > 3 failures warn",
    "lookup 'kilns.csv' on a bring fuel unmatched null",
    "map a from 'kilns.csv' unmatched null",
    "lookup 'kilns.csv' on a bring fuel unmatched aside",
    "tolerate 100%",
)


@pytest.fixture(scope="module")
def cluster() -> Iterator[Cluster]:
    found = open_cluster("local:3")
    yield found
    found.close()


@pytest.fixture(scope="module")
def place(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Three extracts that are divided: text with line breaks in cells, one with rows that do not fit, Parquet."""
    folder, random = tmp_path_factory.mktemp("spread"), Random(5)
    lines = ["a,b,n"]
    for number in range(ROWS):
        cell = random.choice(["x;y", '"two\nlines; and, more"', "", " z ", '"a ""quote"""', "é;x;1"])
        lines.append(f"k{random.randrange(9)},{cell},{number}")
    (folder / "t.csv").write_text("\n".join(lines) + "\n")
    lines[700:900:20] = ["only one"] * 10
    lines[100] = "k1,x,none"
    lines.insert(50, "")
    (folder / "ragged.csv").write_text("\n".join(lines))
    (folder / "kilns.csv").write_text("a,fuel\nk1,gas\nk2,wood\n")
    mangler.Recipe.parse("mangler 1\nconvert n to integer\n").run(
        folder / "t.csv", to=folder / "whole.parquet"
    )
    import pyarrow.parquet as pq

    table = pq.read_table(folder / "whole.parquet")
    pq.write_table(table, folder / "t.parquet", row_group_size=170)
    objects = table.to_pylist()
    (folder / "t.jsonl").write_text("".join(json.dumps(one) + "\n" for one in objects))
    (folder / "unlike.jsonl").write_text("\n".join(unlike_lines(objects)), "utf-8-sig")
    return folder


def unlike_lines(objects: list[dict[str, Any]]) -> list[str]:
    """Objects whose columns and types are known only at the end, lines that are none, and blank ones."""
    lines = []
    for number, one in enumerate(objects):
        one["at"] = {"x": number} if number < 1200 else {"y": f"é{number}", "x": None}
        one["part"] = number if number % 500 != 499 else 12345678901234567890
        one["mixed"] = number if number < 1400 else f"no {number}"
        if number == 1450:
            one["last"] = [1, 2]
        lines.append(json.dumps(one, ensure_ascii=number % 2 == 0))
    lines[700:900:20] = ['{"a": 1, "a": 2}', "not JSON"] * 5
    lines[300:310:2] = [""] * 5
    return lines


@pytest.fixture(autouse=True)
def small(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(dividing, "FEW", 1)
    monkeypatch.setattr(dividing, "SMALLEST", 8192)


def outcome(recipe: mangler.Recipe, extract: Path, to: Path, workforce: Any) -> Any:
    """What came out, what was set aside, and what the summary counts."""
    aside = to.with_name(f"aside{extract.suffix}")
    for path in (to, aside):
        path.unlink(missing_ok=True)
    options = RunOptions(workforce=workforce, memory=64 << 20)
    try:
        result = recipe.core.run(extract, to, aside, options)
    except mangler.Refusal as refusal:
        return [(one.word, one.message, one.advice) for one in refusal.mistakes]
    account = result.summary.to_json()
    for one in [account, account["writing"], *account["steps"]]:
        one.pop("seconds")
    account.pop("seconds_setting_aside")
    remarks = account["steps"][0]["remarks"]
    assert not any("worked on in one place" in remark for remark in remarks)
    return to.read_bytes(), aside.read_bytes() if aside.exists() else None, account


def compared(place: Path, cluster: Cluster, steps: list[str], name: str, ending: str = ".csv") -> None:
    file = place / "r.mangler"
    file.write_text("\n".join(["mangler 1", 'read nulls ""', *steps, ""]))
    recipe = mangler.Recipe.load(file)
    to = place / f"out{ending}"
    assert outcome(recipe, place / name, to, cluster) == outcome(recipe, place / name, to, None)


@pytest.mark.parametrize("name", FILES)
@pytest.mark.parametrize("step", STEPS)
def test_every_step_gives_the_same(place: Path, cluster: Cluster, step: str, name: str) -> None:
    compared(place, cluster, [step, *(["tolerate 100%"] * (step != "tolerate 100%"))], name)


@pytest.mark.parametrize(
    "ending", [".csv", ".tsv", ".jsonl", ".json", ".parquet", ".arrow", ".csv.gz", ".xlsx"]
)
def test_every_format_is_written_the_same(place: Path, cluster: Cluster, ending: str) -> None:
    compared(place, cluster, ["trim *", "tolerate 100%"], "t.csv", ending)


def test_files_of_so_many_rows_are_the_same(place: Path, cluster: Cluster) -> None:
    recipe = mangler.Recipe.parse("mangler 1\ntrim *\nwrite files of 400 rows\n")
    recipe.core.run(place / "t.csv", place / "here.csv")
    recipe.core.run(place / "t.csv", place / "there.csv", options=RunOptions(workforce=cluster))
    here, there = (sorted((place / name).glob("*.csv")) for name in ("here", "there"))
    assert [path.read_bytes() for path in here] == [path.read_bytes() for path in there] and len(here) == 4


@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
@given(
    steps=st.lists(st.sampled_from(STEPS), min_size=6, max_size=6, unique=True),
    name=st.sampled_from(FILES),
)
def test_random_recipes_give_the_same(place: Path, cluster: Cluster, steps: list[str], name: str) -> None:
    steps = [step for step in steps if not step.startswith("tolerate")]
    compared(place, cluster, [*steps, "tolerate 100%"], name)


@pytest.mark.parametrize(
    ("name", "content"),
    [
        ("array.json", b'[{"a": "k1", "b": "x"}]'),
        ("values.jsonl", b'{"a": "k1",\n "b": "x"}\n{"a": "k2", "b": "y"}\n'),
        ("packed.jsonl.gz", gzip.compress(b'{"a": "k1", "b": "x"}\n', mtime=0)),
        (
            "set-aside.jsonl",
            b'{"_file": "t", "_row": 1, "_step": "1", "_reason": "r", "a": "k1", "b": "x"}\n',
        ),
    ],
)
def test_json_that_is_not_divided(place: Path, cluster: Cluster, name: str, content: bytes) -> None:
    (place / name).write_bytes(content)
    recipe = mangler.Recipe.parse("mangler 1\ntrim *\n")
    here = recipe.core.run(place / name, place / "here.csv")
    spread = recipe.core.run(place / name, place / "out.csv", options=RunOptions(workforce=cluster))
    assert (place / "out.csv").read_bytes() == (place / "here.csv").read_bytes()
    assert here.summary.balance.delivered
    remarks = spread.summary.to_json()["steps"][0]["remarks"]
    assert any(remark.startswith("worked on in one place: JSON") for remark in remarks)


def test_json_that_is_damaged_is_refused_the_same(place: Path, cluster: Cluster) -> None:
    lines = [json.dumps({"a": f"k{number}", "b": "x" * 20}) for number in range(2000)]
    (place / "cut.jsonl").write_text("\n".join(lines)[:-9])
    recipe = mangler.Recipe.parse("mangler 1\ntrim *\n")
    to = place / "out.csv"
    assert outcome(recipe, place / "cut.jsonl", to, cluster) == outcome(recipe, place / "cut.jsonl", to, None)
    assert not to.exists()
