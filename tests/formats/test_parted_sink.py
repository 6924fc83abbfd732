"""One file per value: names, whole folders, what may be replaced."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.formats import folder_sink
from mangler.formats.delivery import PART_SUFFIX
from mangler.language.mistake import Refusal


def run(folder: Path, extract: str, write: str, to: str = "out.csv", **options: int) -> dict[str, str]:
    (folder / "e.csv").write_text(extract)
    result = LinkedRecipe.parse(f"mangler 1\nread delimiter ';'\n{write}").run(
        folder / "e.csv", folder / to, options=RunOptions(**options)
    )
    assert result.summary.balance.is_even
    own = folder / to.split(".")[0]
    return {path.name: path.read_text() for path in own.iterdir() if path.name != folder_sink.LISTING}


def test_each_value_has_a_file_with_all_columns(tmp_path: Path) -> None:
    files = run(tmp_path, "kiln;made\n007;1\n012;2\n007;3\n;4\n", "write by kiln")
    assert files == {
        "007.csv": "kiln;made\n007;1\n007;3\n",
        "012.csv": "kiln;made\n012;2\n",
        "null.csv": "kiln;made\n;4\n",
    }


def test_names_are_made_safe_and_told_apart(tmp_path: Path) -> None:
    extract = 'a;b\n../x;1\n"..\\x";2\nX;3\nx;4\n"";5\nnull;6\n;7\nCON:;8\n'
    files = run(tmp_path, extract, "write by a named 'p {a}'".replace("'", '"'))
    assert sorted(files) == sorted(
        [
            "p ..-x.csv",
            "p ..-x-2.csv",
            "p X.csv",
            "p x-2.csv",
            "p empty.csv",
            "p null.csv",
            "p null-2.csv",
            "p CON-.csv",
        ]
    )
    assert files["p null.csv"] == "a;b\nnull;6\n" and files["p null-2.csv"] == "a;b\n;7\n"


@given(
    rows=st.lists(st.tuples(st.sampled_from(["a", "b", "c", ""]), st.integers(0, 9)), max_size=40),
    size=st.integers(20, 400),
    workers=st.sampled_from([1, 3]),
)
def test_no_row_is_lost_whatever_the_partitions(
    tmp_path: Path, rows: list[tuple[str, int]], size: int, workers: int
) -> None:
    extract = "k;n\n" + "".join(f"{key};{number}\n" for key, number in rows)
    files = run(tmp_path, extract, "write by k", partition_size=size, workers=workers) if rows else {}
    wanted: dict[str, str] = {}
    for key, number in rows:
        wanted.setdefault(f"{key or 'null'}.csv", "k;n\n")
        wanted[f"{key or 'null'}.csv"] += f"{key};{number}\n"
    assert files == wanted


def test_the_folder_of_an_earlier_run_is_replaced_and_no_other(tmp_path: Path) -> None:
    run(tmp_path, "k;n\na;1\nb;2\n", "write by k")
    assert set(run(tmp_path, "k;n\nc;1\n", "write by k")) == {"c.csv"}
    (tmp_path / "out" / "mine.txt").write_text("x")
    with pytest.raises(Refusal, match=r"holds mine\.txt, which no run put there"):
        run(tmp_path, "k;n\nd;1\n", "write by k")
    assert {path.name for path in (tmp_path / "out").iterdir()} == {"c.csv", "mine.txt", folder_sink.LISTING}
    assert not [path for path in tmp_path.iterdir() if path.name.startswith(".")]
    (tmp_path / "file").write_text("x")
    with pytest.raises(Refusal, match="is a file"):
        run(tmp_path, "k;n\nd;1\n", "write by k", "file.csv")


def test_what_is_refused_leaves_the_folder_as_it_was(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    run(tmp_path, "k;n\na;1\n", "write by k")
    with pytest.raises(Refusal, match="1 row fails"):
        run(tmp_path, "k;n\nb;x\n", "write by k\nconvert n to integer")
    monkeypatch.setattr(folder_sink, "MOST_FILES", 2)
    with pytest.raises(Refusal, match="more than 2 files"):
        run(tmp_path, "k;n\na;1\nb;2\nc;3\n", "write by k")
    assert {path.name for path in (tmp_path / "out").iterdir()} == {"a.csv", folder_sink.LISTING}
    assert sorted(path.name for path in tmp_path.iterdir()) == ["e.csv", "out"]


def test_the_part_of_a_run_that_was_killed_goes(tmp_path: Path) -> None:
    stale = tmp_path / f".out.0123abcd{PART_SUFFIX}"
    stale.mkdir()
    (stale / "a.csv").write_text("x")
    run(tmp_path, "k;n\na;1\n", "write by k")
    assert not stale.exists()


@pytest.mark.parametrize(
    ("write", "message"),
    [
        ("write by x", 'no column "x" comes out'),
        ('write named "{k}"', "named is about the files that by makes"),
        ('write by k named "{n}"', 'a hole for "n", which is not among'),
        ('write by k named "{upper(k)}"', "the name of a file is a text, with columns in its holes"),
    ],
)
def test_what_cannot_be(tmp_path: Path, write: str, message: str) -> None:
    with pytest.raises(Refusal, match=message):
        run(tmp_path, "k;n\na;1\n", write)
    with pytest.raises(Refusal, match="files are named after single values"):
        run(tmp_path, "k;n\na;1\n", 'write by l\nmake l = split(k, ",")', "out.parquet")


def test_other_formats_and_packed_ones(tmp_path: Path) -> None:
    assert set(run(tmp_path, "k;n\na;1\nb;2\n", "write by k, n", "out.jsonl")) == {"a-1.jsonl", "b-2.jsonl"}
    (tmp_path / "e.csv").write_text("k;n\na;1\n")
    LinkedRecipe.parse("mangler 1\nwrite by k").run(tmp_path / "e.csv", tmp_path / "p.csv.gz")
    assert (tmp_path / "p" / "a.csv.gz").read_bytes()[:2] == b"\x1f\x8b"
