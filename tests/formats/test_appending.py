"""Rows put behind those of a file: in every format the same table as if all had been written at once."""

from __future__ import annotations

import gzip
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import mangler

NAMES = (
    "t.csv", "t.tsv", "t.jsonl", "t.json", "t.parquet", "t.arrow", "t.arrows",
    "t.csv.gz", "t.jsonl.zst", "t.json.bz2", "t.csv.zip", "t.csv.xz",
)  # fmt: skip
BYTES_ALIKE = ("t.csv", "t.tsv", "t.jsonl", "t.json", "t.parquet")
"""Of those that are not packed the bytes are the same too, as the writers do not depend on how rows come."""
CELLS = st.lists(
    st.tuples(
        st.none() | st.text(st.sampled_from('ab",;\né[]{}'), min_size=1, max_size=4), st.integers(-9, 9)
    ),
    max_size=4,
)
TYPES = 'mangler 1\nread nulls ""\nconvert made to integer\n'


def extract(path: Path, rows: list[tuple[str | None, int]]) -> Path:
    quoted = ["" if glaze is None else '"' + glaze.replace('"', '""') + '"' for glaze, _ in rows]
    lines = [f"{glaze},{made}" for glaze, (_, made) in zip(quoted, rows, strict=True)]
    path.write_text("\n".join(["glaze,made", *lines]) + "\n")
    return path


def rows_of(path: Path) -> list[dict[str, Any]]:
    return mangler.Recipe.parse('mangler 1\nread nulls ""\n').run(path).table.to_pylist()


@pytest.mark.parametrize("name", NAMES)
@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
@given(first=CELLS, second=CELLS, third=CELLS)
def test_what_is_appended_is_as_if_written_at_once(
    tmp_path: Path, name: str, first: list[Any], second: list[Any], third: list[Any]
) -> None:
    recipe, output, whole = mangler.Recipe.parse(TYPES), tmp_path / name, tmp_path / f"whole-{name}"
    output.unlink(missing_ok=True)
    for number, rows in enumerate((first, second, third)):
        result = recipe.run(extract(tmp_path / f"{number}.csv", rows), append=output)
        assert result.summary.balance.delivered == len(rows)
    recipe.run(extract(tmp_path / "all.csv", first + second + third), to=whole)
    if first + second + third:  # JSON without an object has no columns to be read
        assert rows_of(output) == rows_of(whole)
    if name in BYTES_ALIKE:
        assert output.read_bytes() == whole.read_bytes()


@pytest.mark.parametrize(
    ("old", "message"),
    [
        ("made,glaze\n1,a\n", "the order is another: column 1 is made there, and glaze now"),
        ("glaze\na\n", "made is new"),
        ("glaze,made,cone\na,1,06\n", "cone is there, and not in the rows that come"),
    ],
)
def test_other_columns_are_refused_with_what_differs(tmp_path: Path, old: str, message: str) -> None:
    output = tmp_path / "t.csv"
    output.write_text(old)
    with pytest.raises(mangler.Refusal, match=message):
        mangler.Recipe.parse("mangler 1\n").run(extract(tmp_path / "a.csv", [("x", 1)]), append=output)
    assert output.read_text() == old and len(list(tmp_path.iterdir())) == 2


@pytest.mark.parametrize("name", ["t.csv", "t.json", "t.csv.gz"])
def test_an_empty_file_is_made_anew(tmp_path: Path, name: str) -> None:
    for old in (b"", b" \n"):
        (tmp_path / name).write_bytes(gzip.compress(old) if name.endswith("gz") else old)
        mangler.Recipe.parse(TYPES).run(extract(tmp_path / "a.csv", [("x", 1)]), append=tmp_path / name)
        assert rows_of(tmp_path / name)[0]["glaze"] == "x"


def test_another_type_is_refused_where_the_format_has_types(tmp_path: Path) -> None:
    come = extract(tmp_path / "a.csv", [("x", 1)])
    for name in ("t.parquet", "t.arrow", "t.jsonl", "t.json"):
        output = tmp_path / name
        mangler.Recipe.parse("mangler 1\n").run(come, to=output)
        before = output.read_bytes()
        with pytest.raises(mangler.Refusal, match="made is text there, and integer now"):
            mangler.Recipe.parse(TYPES).run(come, append=output)
        assert output.read_bytes() == before
    pq.write_table(pa.table({"glaze": ["x"], "made": pa.array([1], pa.int16())}), tmp_path / "t.parquet")
    with pytest.raises(mangler.Refusal, match="made is int16 there, and integer now"):
        mangler.Recipe.parse(TYPES).run(come, append=tmp_path / "t.parquet")


def test_the_file_keeps_its_delimiter_quotes_and_line_ends(tmp_path: Path) -> None:
    output = tmp_path / "t.csv"
    output.write_bytes('\ufeffglaze;made\r\n "kept, as it is" ;1'.encode())
    mangler.Recipe.parse("mangler 1\n").run(extract(tmp_path / "a.csv", [("x;y", 2)]), append=output)
    assert output.read_bytes() == '\ufeffglaze;made\r\n "kept, as it is" ;1\r\n"x;y";2\r\n'.encode()


def test_a_file_of_another_format_under_the_name_is_refused(tmp_path: Path) -> None:
    output = tmp_path / "t.csv"
    pq.write_table(pa.table({"glaze": ["x"], "made": ["1"]}), output)
    come = extract(tmp_path / "a.csv", [("x", 1)])
    with pytest.raises(mangler.Refusal, match="is Parquet, and the rows would be written as delimited text"):
        mangler.Recipe.parse("mangler 1\n").run(come, append=output)


def test_nothing_is_put_behind_the_rows_of_a_workbook(tmp_path: Path) -> None:
    come = extract(tmp_path / "a.csv", [("x", 1)])
    for recipe, name, message in (
        ("mangler 1\n", "t.xlsx", "no rows are put behind those of a workbook"),
        ("mangler 1\nwrite by glaze\n", "t.csv", "makes a folder of files, and --append goes on with one"),
    ):
        with pytest.raises(mangler.Refusal, match=message):
            mangler.Recipe.parse(recipe).run(come, append=tmp_path / name)
    with pytest.raises(mangler.Refusal, match="to or append"):
        mangler.Recipe.parse("mangler 1\n").run(come, to=tmp_path / "a", append=tmp_path / "b")


def test_fixed_width_and_another_encoding_go_on(tmp_path: Path) -> None:
    recipe = mangler.Recipe.parse('mangler 1\nwrite widths 6, 4 encoding "latin-1"\n')
    for name in ("a", "b"):
        recipe.run(extract(tmp_path / f"{name}.csv", [("é", 1)]), append=tmp_path / "t.txt")
    assert (tmp_path / "t.txt").read_bytes() == "glaze made\né     1   \né     1   \n".encode("latin-1")


def test_what_is_set_aside_and_dropped_leaves_the_file_as_it_was_and_counts(tmp_path: Path) -> None:
    output = tmp_path / "t.json.gz"
    recipe = mangler.Recipe.parse('mangler 1\ndrop rows where made = "1"\n')
    for _ in range(2):
        result = recipe.run(extract(tmp_path / "a.csv", [("x", 1)]), append=output)
        assert (result.summary.balance.dropped, gzip.decompress(output.read_bytes())) == (1, b"[]\n")
