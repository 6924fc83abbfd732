"""Columns that have a type in their file: profile, draft and drift take them as they are."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.formats.every_type.columns import EVERY

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.formats.contract import ReadRequest
from mangler.formats.registry import open_source
from mangler.insight.fingerprint.change import Change
from mangler.insight.fingerprint.drift import drift_of
from mangler.insight.fingerprint.fingerprint import Fingerprint, series_of
from mangler.insight.fingerprint.fingerprint_taking import FingerprintTaker
from mangler.insight.profile.draft import draft
from mangler.insight.profile.profile import profile_file
from mangler.language.mistake import Refusal
from mangler.table.settings import ReadSettings


def taken(path: Path) -> Fingerprint:
    """The fingerprint of a file, which is kept as a history keeps it."""
    source, taker = open_source(str(path), ReadRequest()), FingerprintTaker()
    try:
        taker.begin(source.schema, source.details)
        for partition in source.partitions():
            taker.collect(taker.observe(source.read(partition).batch))
        taker.end()
    finally:
        source.close()
    assert taker.fingerprint is not None
    return Fingerprint.of_json(taker.fingerprint.to_json())


def written(path: Path, columns: dict[str, Any]) -> Path:
    pq.write_table(pa.table(columns), path)
    return path


ROWS = 60
WEEK: dict[str, Any] = {
    "kiln": pa.array([f"{number % 5:03}" for number in range(ROWS)]),
    "fired_on": pa.array([dt.date(2026, 5, 4) + dt.timedelta(days=number % 7) for number in range(ROWS)]),
    "made": pa.array([number % 9 for number in range(ROWS)], pa.int16()),
    "peak": pa.array([900.0 + 7 * number for number in range(ROWS)]),
}


def test_types_are_no_findings_and_no_steps(tmp_path: Path) -> None:
    profile = profile_file(str(written(tmp_path / "e.parquet", WEEK)), ReadSettings())
    assert [column.looks for column in profile.columns] == ["text", "date", "integer", "float"]
    assert [column.stored for column in profile.columns] == ["text", "date", "integer", "float"]
    assert not [finding for column in profile.columns[1:] for finding in column.findings]
    assert profile.columns[3].numbers is not None and profile.columns[1].dates is not None
    text = draft(profile, "e").text
    assert "convert" not in text and "replace" not in text
    assert LinkedRecipe.parse(text).run(tmp_path / "e.parquet").table.schema == pa.table(WEEK).schema


@pytest.mark.parametrize("name", sorted(EVERY))
def test_every_type_is_profiled_drafted_and_remembered(name: str, tmp_path: Path) -> None:
    path = tmp_path / "e.arrow"
    table = pa.table([pa.array(range(4)), EVERY[name]], names=["row", "c"])
    with pa.OSFile(str(path), "wb") as file, pa.ipc.new_file(file, table.schema) as writer:
        writer.write_table(table)
    profile = profile_file(str(path), ReadSettings())
    nulls = {"union": 0, "nothing": 4}.get(name, EVERY[name].null_count or 1)
    assert profile.columns[1].facts.nulls == nulls
    LinkedRecipe.parse(draft(profile, "e").text)
    print_ = taken(path)
    assert print_.format == "Arrow file" and not drift_of(print_, [print_])


def test_another_type_is_reported_once_for_all_columns_with_the_same_change(tmp_path: Path) -> None:
    before = taken(written(tmp_path / "1.parquet", WEEK))
    texts = {name: column.cast(pa.string()) for name, column in WEEK.items()}
    now = taken(written(tmp_path / "2.parquet", {**texts, "fired_on": WEEK["fired_on"]}))
    assert [(drift.change, drift.columns) for drift in drift_of(now, [before])] == [
        (Change.TYPE, ("made",)),
        (Change.TYPE, ("peak",)),
    ]
    assert drift_of(now, [before])[0].message == "made: its type is text, and was integer"
    assert not drift_of(now, [now, before])  # known from one of the runs


def test_another_format_is_reported_and_its_own_settings_are_not_compared(tmp_path: Path) -> None:
    (tmp_path / "1.csv").write_text("kiln;made\n007;1\n012;2\n")
    LinkedRecipe.parse("mangler 1").run(tmp_path / "1.csv", tmp_path / "2.jsonl")
    found = drift_of(taken(tmp_path / "2.jsonl"), [taken(tmp_path / "1.csv")])
    assert [drift.message for drift in found] == ["the format is JSON Lines, and was delimited text"]


def test_numbers_out_of_range_and_new_values_of_typed_columns(tmp_path: Path) -> None:
    before = taken(written(tmp_path / "1.parquet", WEEK))
    wrong = {**WEEK, "peak": pa.array([*WEEK["peak"].to_pylist()[:-1], 99_000.0])}
    found = drift_of(taken(written(tmp_path / "2.parquet", wrong)), [before] * 3)
    assert any("peak" in drift.columns for drift in found)


@given(
    values=st.lists(st.one_of(st.none(), st.integers(-(2**40), 2**40)), min_size=1, max_size=400),
    distinct=st.sampled_from([3, 1000]),
)
def test_a_fingerprint_does_not_depend_on_partitions(
    tmp_path: Path, values: list[int | None], distinct: int
) -> None:
    columns = {"n": pa.array([None if one is None else one % distinct for one in values], pa.int64())}
    table = pa.table(columns)
    prints = []
    for size in (7, 1000):
        path = tmp_path / f"{size}.arrows"
        with pa.OSFile(str(path), "wb") as file, pa.ipc.new_stream(file, table.schema) as writer:
            writer.write_table(table, max_chunksize=size)
        prints.append(taken(path).to_json())
    assert prints[0] == prints[1]


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("in/week-20.csv", "in/week-21.xlsx"),
        ("in/week-20.csv.gz", "week-21.jsonl"),
        ("week-20.xls", "week-21.parquet"),
    ],
)
def test_extracts_of_other_formats_are_of_one_series(one: str, other: str) -> None:
    assert series_of(one) == series_of(other) == "week-#"
    assert series_of("kiln.2026") == "kiln.#"


def test_a_later_typed_file_that_no_longer_fits_is_refused_with_a_way_out(tmp_path: Path) -> None:
    recipe = LinkedRecipe.parse('mangler 1\nreplace "C" with "" in peak')
    with pytest.raises(Refusal, match='replace cannot work on "peak", which is float') as refused:
        recipe.run(written(tmp_path / "e.parquet", WEEK))
    assert "convert peak first" in refused.value.mistakes[0].advice
