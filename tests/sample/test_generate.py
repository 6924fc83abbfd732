from __future__ import annotations

from pathlib import Path

from mangler.engine.recipe import Recipe
from mangler.language.layout import format_recipe
from mangler.sample.generate import EXTRACTS, write_extract, write_sample


def test_the_sample_is_the_same_every_time(tmp_path: Path) -> None:
    for name in ("one", "two"):
        (tmp_path / name).mkdir()
        write_sample(tmp_path / name)
    files = sorted(p.relative_to(tmp_path / "one") for p in (tmp_path / "one").rglob("*") if p.is_file())
    assert len(files) == 6
    for file in files:
        assert (tmp_path / "one" / file).read_bytes() == (tmp_path / "two" / file).read_bytes()


def test_the_sample_recipe_is_in_the_canonical_layout_and_changes_something_in_every_step(
    tmp_path: Path,
) -> None:
    write_sample(tmp_path)
    path = tmp_path / "kiln-log.mangler"
    recipe = Recipe.load(path)
    assert format_recipe(recipe.parsed) == path.read_text("utf-8")
    result = recipe.run(tmp_path / "extracts" / "clayworks-week-18.csv")
    assert result.summary.balance.delivered == 60
    assert not [remark for step in result.summary.steps for remark in step.remarks]
    assert set(result.table.column("result").to_pylist()) == {"good", "cracked", "not judged"}
    assert set(result.table.column("studio").to_pylist()) == {"Clay Works", "unknown"}
    assert {"007", "012"} <= set(result.table.column("kiln").to_pylist())
    assert all(peak is None or peak.isdigit() for peak in result.table.column("peak_c").to_pylist())


def test_any_number_of_rows(tmp_path: Path) -> None:
    write_extract(tmp_path / "big.csv", EXTRACTS[0], 25_000)
    result = Recipe.parse("mangler 1\nread delimiter ';'").run(tmp_path / "big.csv")
    assert len(result.table) == 25_000
