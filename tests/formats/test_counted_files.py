"""Files of so many rows each: no row lost, the same files whatever the partitions, whole folders."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

import mangler
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.formats import folder_sink
from mangler.language.mistake import Refusal


def run(folder: Path, rows: int, write: str, to: str = "out.csv", **options: int) -> list[Path]:
    (folder / "e.csv").write_text("k;n\n" + "".join(f"a;{number}\n" for number in range(rows)))
    result = LinkedRecipe.parse(f"mangler 1\nread delimiter ';'\n{write}").run(
        folder / "e.csv", folder / to, options=RunOptions(**options)
    )
    assert result.summary.balance.is_even
    return sorted(path for path in (folder / "out").iterdir() if path.name != folder_sink.LISTING)


@given(
    rows=st.integers(0, 40),
    most=st.integers(1, 45),
    size=st.integers(10, 200),
    workers=st.sampled_from([1, 3]),
)
def test_files_are_full_but_for_the_last(
    tmp_path: Path, rows: int, most: int, size: int, workers: int
) -> None:
    files = run(tmp_path, rows, f"write files of {most} rows", partition_size=size, workers=workers)
    assert [path.name for path in files] == [
        f"out-{n:04d}.csv" for n in range(1, max(1, -(-rows // most)) + 1)
    ]
    numbers = [path.read_text().splitlines() for path in files]
    assert all(lines[0] == "k;n" for lines in numbers)
    assert all(len(lines) == most + 1 for lines in numbers[:-1])
    assert [line for lines in numbers for line in lines[1:]] == [f"a;{number}" for number in range(rows)]


@pytest.mark.parametrize("ending", [".jsonl", ".json", ".parquet", ".arrow", ".arrows", ".xlsx", ".csv.gz"])
def test_every_format(tmp_path: Path, ending: str) -> None:
    files = run(tmp_path, 25, "write files of 10 rows", f"out{ending}", partition_size=64)
    assert [path.name for path in files] == [f"out-000{n}{ending}" for n in (1, 2, 3)]
    read = mangler.Recipe.parse("mangler 1\nconvert n to text")
    tables = [read.run(path).table for path in files]
    assert [table.num_rows for table in tables] == [10, 10, 5]
    assert [one for table in tables for one in table["n"].to_pylist()] == [str(n) for n in range(25)]


def test_a_refused_run_leaves_the_folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    assert len(run(tmp_path, 3, "write files of 2 rows")) == 2
    with pytest.raises(Refusal, match="fail"):
        run(tmp_path, 9, "write files of 2 rows\nconvert k to integer")
    monkeypatch.setattr(folder_sink, "MOST_FILES", 4)
    with pytest.raises(Refusal, match="files of 2 rows would be more than 4"):
        run(tmp_path, 9, "write files of 2 rows")
    assert sorted(path.name for path in tmp_path.iterdir()) == ["e.csv", "out"]
    assert len(list((tmp_path / "out").iterdir())) == 3
    assert len(run(tmp_path, 1, "write files of 2 rows")) == 1


@pytest.mark.parametrize(
    ("write", "message"),
    [
        ("write files of 0 rows", "a file has at least one row"),
        ("write by k files of 5 rows", "files of so many rows are named by number"),
        ('write files of 5 rows named "x"', "named by number"),
        ("write format workbook files of 2000000 rows", "a sheet has a place for 1,048,575 rows"),
    ],
)
def test_what_cannot_be(tmp_path: Path, write: str, message: str) -> None:
    with pytest.raises(Refusal, match=message):
        run(tmp_path, 1, write)
