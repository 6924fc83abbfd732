"""Every type, written and read back in every format: what the manual says of it is measured here."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from tests.formats.every_type.columns import EVERY, exact

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.formats.registry import open_source
from mangler.formats.what_is_kept import FORMATS, KEPT, Outcome, alike
from mangler.language.mistake import Refusal
from mangler.table.stored_types import arrow_type

NOTHING_DONE = LinkedRecipe.parse("mangler 1")


def extract_of(name: str, folder: Path) -> Path:
    """An extract that has the column in its very type: an Arrow file holds every type."""
    path = folder / "extract.arrow"
    table = pa.table([pa.array(range(4)), EVERY[name]], names=["row", "c"])
    with pa.OSFile(str(path), "wb") as file, pa.ipc.new_file(file, table.schema) as writer:
        writer.write_table(table)
    return path


def read_back(path: Path) -> tuple[list[str], Any, Any]:
    """The names of the columns, the type of the last one in the file, and its values as they are written again."""
    source = open_source(str(path))
    try:
        column = source.schema.columns[-1]
    finally:
        source.close()
    table = NOTHING_DONE.run(path).table
    return table.column_names, arrow_type(column), table.column(table.num_columns - 1).combine_chunks()


def outcome_of(name: str, ending: str, folder: Path) -> Outcome:
    extract, out = extract_of(name, folder), folder / f"out{ending}"
    try:
        NOTHING_DONE.run(extract, out)
    except Refusal as refusal:
        assert "convert c to text" in refusal.mistakes[0].advice or "joined(c" in refusal.mistakes[0].advice
        assert not out.exists()
        return Outcome.REFUSED
    names, kind, values = read_back(out)
    if names != ["row", "c"]:
        return Outcome.ANOTHER
    before = EVERY[name]
    if exact(values) != exact(before):
        return Outcome.ANOTHER
    return Outcome.KEPT if kind == before.type else Outcome.VALUE


@pytest.mark.parametrize("name", EVERY)
@pytest.mark.parametrize("ending", FORMATS.values())
def test_a_format_keeps_what_the_manual_says(name: str, ending: str, tmp_path: Path) -> None:
    word = next(word for word, own in FORMATS.items() if own == ending)
    assert outcome_of(name, ending, tmp_path) is KEPT[word][name]


def test_every_type_has_a_line_in_the_manual() -> None:
    assert all(set(kept) == set(EVERY) for kept in KEPT.values())
    assert sorted(name for names, _ in alike() for name in names) == sorted(EVERY)


@pytest.mark.parametrize("ending", [".parquet", ".arrow", ".arrows"])
def test_two_runs_give_the_same_bytes(ending: str, tmp_path: Path) -> None:
    chosen = [name for name in EVERY if KEPT["parquet"][name] is not Outcome.REFUSED]
    table = pa.table([EVERY[name] for name in chosen], names=chosen)
    pq.write_table(table.select([0, 1, 2]), tmp_path / "a.parquet")
    first, second = tmp_path / f"1{ending}", tmp_path / f"2{ending}"
    for path in (first, second):
        NOTHING_DONE.run(tmp_path / "a.parquet", path)
    assert first.read_bytes() == second.read_bytes()
