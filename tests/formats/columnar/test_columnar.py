"""Parquet, Arrow files and Arrow streams: rows in partitions, chunks of one size, damage, rows set aside."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.cli.program import mangler, said

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.formats.columnar import reading, sink
from mangler.language.mistake import ExitCode, Refusal

ENDINGS = ("parquet", "arrow", "arrows")


def write(table: Any, path: Path) -> None:
    if path.suffix == ".parquet":
        pq.write_table(table, path, row_group_size=70)
        return
    make = pa.ipc.new_file if path.suffix == ".arrow" else pa.ipc.new_stream
    with pa.OSFile(str(path), "wb") as file, make(file, table.schema) as writer:
        writer.write_table(table, max_chunksize=33)


def read(path: Path) -> Any:
    if path.suffix == ".parquet":
        return pq.read_table(path)
    open_it = pa.ipc.open_file if path.suffix == ".arrow" else pa.ipc.open_stream
    with pa.OSFile(str(path)) as file:
        return open_it(file).read_all()


def sample(rows: int) -> Any:
    kilns = pa.array([f"{number % 5:03}" if number % 7 else None for number in range(rows)])
    return pa.table(
        {
            "row": pa.array(range(rows), pa.int32()),
            "kiln": kilns.dictionary_encode(),
            "note": pa.array([f" note {number} " for number in range(rows)]),
        }
    )


@pytest.mark.parametrize("ending", ENDINGS)
@pytest.mark.parametrize("workers", [1, 3])
def test_the_file_does_not_depend_on_partitions_and_threads(
    tmp_path: Path, ending: str, workers: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    extract = tmp_path / f"e.{ending}"
    write(sample(500), extract)
    recipe = LinkedRecipe.parse("mangler 1\ntrim note\nkeep rows where row != 250\nmake double = row * 2")
    recipe.run(extract, tmp_path / f"whole.{ending}")
    monkeypatch.setattr(reading, "MOST_ROWS", 41)
    monkeypatch.setattr(reading, "FEWEST_ROWS", 1)
    recipe.run(extract, tmp_path / f"parts.{ending}", options=RunOptions(workers=workers))
    assert (tmp_path / f"whole.{ending}").read_bytes() == (tmp_path / f"parts.{ending}").read_bytes()
    table = read(tmp_path / f"parts.{ending}")
    assert table.schema.field("kiln").type == pa.dictionary(pa.int32(), pa.string())
    assert table.column("kiln").to_pylist() == [
        k for r, k in enumerate(sample(500).column("kiln").to_pylist()) if r != 250
    ]


@pytest.mark.parametrize("ending", ENDINGS)
@given(sizes=st.lists(st.integers(0, 40), max_size=6))
def test_chunks_have_one_size_however_rows_come(tmp_path: Path, ending: str, sizes: list[int]) -> None:
    own = sink.ColumnarSink
    from mangler.formats import registry

    chosen = registry.load(next(entry for entry in registry.ENTRIES if f".{ending}" in entry.suffixes))
    made = own(tmp_path / f"o.{ending}", False, chosen.name, chosen.make_writer, 32)  # type: ignore[attr-defined]
    made._chunk_rows = 32
    from mangler.table.batch import Batch, NoOrigin
    from mangler.table.schema import Column, Schema, ValueType
    from mangler.table.settings import WriteSettings

    made.open(Schema((Column("n", ValueType.INTEGER),)), WriteSettings(), None)  # type: ignore[arg-type]
    made._chunk_rows = 32
    first = 0
    for size in sizes:
        numbers = pa.array(range(first, first + size), pa.int64())
        import numpy as np

        made.write(made.encode(Batch((numbers,), np.arange(size), NoOrigin())))
        first += size
    made.finish(None)  # type: ignore[arg-type]
    made.commit()
    assert made.rows_written == first
    assert read(tmp_path / f"o.{ending}").column("n").to_pylist() == list(range(first))
    if ending == "parquet":
        metadata = pq.ParquetFile(tmp_path / f"o.{ending}").metadata
        rows = [metadata.row_group(index).num_rows for index in range(metadata.num_row_groups)]
        assert all(count == 32 for count in rows[:-1])


@pytest.mark.parametrize("ending", ENDINGS)
def test_rows_set_aside_have_their_types_and_run_again(tmp_path: Path, ending: str) -> None:
    write(sample(20), tmp_path / f"e.{ending}")
    recipe = LinkedRecipe.parse(
        'mangler 1\nrequire that kiln is not null failures aside\ntolerate 100%\nfill kiln with "none"'
    )
    aside = tmp_path / f"aside.{ending}"
    result = recipe.run(tmp_path / f"e.{ending}", tmp_path / f"o.{ending}", aside)
    assert result.summary.balance.set_aside == 3
    table = read(aside)
    assert table.column_names == ["_file", "_row", "_step", "_reason", "row", "kiln", "note"]
    assert table.schema.field("row").type == pa.int32() and table.column("row").to_pylist() == [0, 7, 14]
    assert table.column("_row").to_pylist() == [1, 8, 15]
    again = LinkedRecipe.parse('mangler 1\nfill kiln with "none"').run(aside)
    assert again.table.column_names == ["row", "kiln", "note"]
    assert set(again.table.column("kiln").to_pylist()) == {"none"}


@pytest.mark.parametrize("ending", ENDINGS)
def test_a_file_that_is_cut_off_is_said_to_be_damaged(tmp_path: Path, ending: str) -> None:
    write(sample(400), tmp_path / f"e.{ending}")
    content = (tmp_path / f"e.{ending}").read_bytes()
    recipe = LinkedRecipe.parse("mangler 1")
    for size in (9, len(content) // 2, len(content) - 9):
        (tmp_path / f"cut.{ending}").write_bytes(content[:size])
        with pytest.raises(Refusal) as refused:
            recipe.run(tmp_path / f"cut.{ending}", tmp_path / f"o.{ending}")
        assert refused.value.code is ExitCode.FILE_TROUBLE
        assert refused.value.mistakes[0].word == "file-damaged"
        assert not (tmp_path / f"o.{ending}").exists()


def test_compression_is_said_or_refused(tmp_path: Path) -> None:
    write(sample(50), tmp_path / "e.parquet")
    for said_codec, found in (
        ("", "ZSTD"),
        (" compression snappy", "SNAPPY"),
        (" compression none", "UNCOMPRESSED"),
    ):
        LinkedRecipe.parse(f"mangler 1\nwrite format parquet{said_codec}").run(
            tmp_path / "e.parquet", tmp_path / "o"
        )
        assert pq.ParquetFile(tmp_path / "o").metadata.row_group(0).column(0).compression == found
    for word, codec in (("parquet", "bzip2"), ("arrow", "gzip"), ("jsonl", "snappy"), ("text", "lz4")):
        with pytest.raises(Refusal, match=r"does not pack its columns with|is not packed with") as refused:
            LinkedRecipe.parse(f"mangler 1\nwrite format {word} compression {codec}").run(
                tmp_path / "e.parquet", tmp_path / "refused"
            )
        assert refused.value.mistakes[0].word == "compression-not-known" and refused.value.mistakes[0].span
        assert not (tmp_path / "refused").exists()


def test_columns_with_one_name_get_names_or_are_refused(tmp_path: Path) -> None:
    table = pa.Table.from_arrays([pa.array([1]), pa.array([2])], names=["a", "a"])
    write(table, tmp_path / "e.arrow")
    with pytest.raises(Refusal, match='has "a" twice'):
        LinkedRecipe.parse("mangler 1").run(tmp_path / "e.arrow")
    completed = LinkedRecipe.parse("mangler 1\nread names completed").run(tmp_path / "e.arrow")
    assert completed.table.column_names == ["a", "a_2"]
    called = LinkedRecipe.parse("mangler 1\nread called x, y").run(tmp_path / "e.arrow")
    assert called.table.to_pylist() == [{"x": 1, "y": 2}]


def test_what_is_called_something_else_is_known_by_its_content(tmp_path: Path) -> None:
    write(sample(3), tmp_path / "e.parquet")
    (tmp_path / "e.parquet").rename(tmp_path / "e.csv")
    assert LinkedRecipe.parse("mangler 1").run(tmp_path / "e.csv").table.num_rows == 3
    (tmp_path / "t.parquet").write_text("a,b\n1,2\n")
    assert LinkedRecipe.parse("mangler 1").run(tmp_path / "t.parquet").table.to_pylist() == [
        {"a": "1", "b": "2"}
    ]
    with pytest.raises(Refusal, match="cannot be read as Parquet"):
        LinkedRecipe.parse("mangler 1\nread format parquet").run(tmp_path / "t.parquet")


def test_through_a_pipe_and_to_standard_output(tmp_path: Path) -> None:
    write(sample(5), tmp_path / "e.parquet")
    (tmp_path / "r.mangler").write_text("mangler 1\nwrite format arrows\ntrim note\n")
    done = mangler("run", "r.mangler", "-", cwd=tmp_path, stdin=(tmp_path / "e.parquet").read_bytes())
    assert done.returncode == 0, said(done)
    table = pa.ipc.open_stream(pa.BufferReader(done.stdout)).read_all()
    assert table.column("note").to_pylist()[0] == "note 0"


def test_only_rows_up_to_a_number_are_read(tmp_path: Path) -> None:
    write(sample(100), tmp_path / "e.parquet")
    result = LinkedRecipe.parse("mangler 1").run(tmp_path / "e.parquet", options=RunOptions(rows=10))
    assert result.table.num_rows == 10 and result.summary.balance.read == 10
