"""Rows that a sheet has no place for are refused before the first is written, whatever the extract and the steps."""

from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.run import row_limit
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.formats.workbook import sink
from mangler.language.mistake import Refusal


@pytest.fixture
def few(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """A sheet of nine rows; the list gets how many rows are written at a time."""
    monkeypatch.setattr(sink, "MOST_ROWS", 10)
    monkeypatch.setattr(row_limit, "LEAST_SIZE", 0)
    written: list[int] = []
    write = sink.WorkbookSink.write

    def noted(self: sink.WorkbookSink, encoded: sink.Cells) -> None:
        written.append(encoded.count)
        write(self, encoded)

    monkeypatch.setattr(sink.WorkbookSink, "write", noted)
    return written


def extract(folder: Path, rows: int) -> Path:
    path = folder / "e.csv"
    path.write_text("kiln,glazes\n" + "".join(f"K-{row},ash; shino\n" for row in range(rows)))
    return path


@pytest.mark.parametrize(
    ("steps", "rows"),
    [
        ("", 10),
        ('split glazes at ";" into rows', 5),
        ("sort by kiln", 10),
        ('keep rows where kiln != "K-0"', 11),
    ],
)
def test_they_are_counted_before_the_first_is_written(
    tmp_path: Path, few: list[int], steps: str, rows: int
) -> None:
    recipe = LinkedRecipe.parse(f"mangler 1\n{steps}")
    options = RunOptions(partition_size=40)
    with pytest.raises(Refusal, match="more than 9 rows are to be written"):
        recipe.run(extract(tmp_path, rows), tmp_path / "o.xlsx", options=options)
    assert few == [] and not (tmp_path / "o.xlsx").exists()
    recipe.run(extract(tmp_path, rows - 1), tmp_path / "o.xlsx", options=options)
    assert sum(few) in (8, 9)


@pytest.mark.usefixtures("few")
def test_what_else_is_wrong_is_said_by_the_run(tmp_path: Path) -> None:
    recipe = LinkedRecipe.parse('mangler 1\nrequire that kiln = "K-0" failures stop')
    with pytest.raises(Refusal, match="2 rows fail in this step"):
        recipe.run(extract(tmp_path, 3), tmp_path / "o.xlsx")


def test_each_part_has_a_sheet_of_its_own(tmp_path: Path, few: list[int]) -> None:
    recipe = LinkedRecipe.parse("mangler 1\nwrite by kiln")
    recipe.run(extract(tmp_path, 12), tmp_path / "o.xlsx")
    assert sum(few) == 12
