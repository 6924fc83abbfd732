from __future__ import annotations

import csv
import re
from dataclasses import replace
from pathlib import Path

import pytest

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.layout import format_recipe
from mangler.sample.generate import (
    EXTRACTS,
    FIRST,
    FORMS,
    LAST,
    SampleExtract,
    write_extract,
    write_sample,
)


def test_the_sample_is_the_same_every_time(tmp_path: Path) -> None:
    for name in ("one", "two"):
        (tmp_path / name).mkdir()
        write_sample(tmp_path / name)
    files = sorted(p.relative_to(tmp_path / "one") for p in (tmp_path / "one").rglob("*") if p.is_file())
    assert len(files) == 8
    for file in files:
        assert (tmp_path / "one" / file).read_bytes() == (tmp_path / "two" / file).read_bytes()


def test_the_sample_recipe_is_in_the_canonical_layout_and_changes_something_in_every_step(
    tmp_path: Path,
) -> None:
    write_sample(tmp_path)
    path = tmp_path / "kiln-log.mangler"
    recipe = LinkedRecipe.load(path)
    assert format_recipe(recipe.parsed) == path.read_text("utf-8")
    result = recipe.run(tmp_path / "extracts" / "clayworks-week-18.csv")
    assert result.summary.balance.read == 60
    remarks = [remark for step in result.summary.steps for remark in step.remarks]
    assert not [remark for remark in remarks if "changed nothing" in remark or "cells left that" in remark]
    assert set(result.table.column("result").to_pylist()) == {"good", "cracked", "not judged"}
    assert set(result.table.column("studio").to_pylist()) == {"Clay Works", "unknown"}
    assert {"007", "012"} <= set(result.table.column("kiln").to_pylist())
    assert all(peak is None or peak.isdigit() for peak in result.table.column("peak_c").to_pylist())


@pytest.mark.parametrize(
    "extract",
    [extract for extract in EXTRACTS if not extract.drifted and extract.form == "text"],
    ids=lambda e: e.file,
)
def test_every_row_of_the_sample_files_comes_out_right(tmp_path: Path, extract: SampleExtract) -> None:
    """Each cell that is split is put together again, and its parts are what the generator put there."""
    write_sample(tmp_path)
    path = tmp_path / "extracts" / extract.file
    with path.open(encoding="utf-8-sig", newline="") as file:
        given = [row for row in csv.DictReader(file, delimiter=";") if row["notes"] is not None]
    table = LinkedRecipe.load(tmp_path / "kiln-log.mangler").run(path).table.to_pylist()
    for row in given:
        pieces = [pair.strip() for pair in row["pieces"].split(",")]
        made, table = table[: len(pieces)], table[len(pieces) :]
        for pair, out in zip(pieces, made, strict=True):
            names = [out["title"], out["first_name"], out["middle"], out["last_name"]]
            assert " ".join(name for name in names if name) == row["potter"]
            assert out["first_name"] in FIRST and out["last_name"] in LAST
            contacts = [contact.strip() for contact in row["contacts"].split(";") if contact]
            said = [out["first_contact"], *(out["other_contacts"] or "").split("; ")]
            assert [contact for contact in said if contact] == contacts
            shelf = [out["rack"], out["board"], out["side"]]
            assert "/".join(part for part in shelf if part) == row["shelf"]
            glazes = [
                glaze.strip().lower().replace("temoku", "tenmoku") for glaze in row["glazes"].split(";")
            ]
            wanted = dict.fromkeys(glaze for glaze in glazes if glaze not in ("", "none"))
            assert (out["glazes"] or "").split("; ") == [*(wanted or [""])]
            assert re.fullmatch(r"2026-0[45]-\d\d \d\d:\d\d:00", f"{out['fired_on']} {out['fired_time']}")
            assert out["piece"] in FORMS
            form, mark, count = re.fullmatch(r"([^=-]+)([=-]?)(.*)", pair).groups()
            assert (out["piece"], out["made"]) == (form, int(count) if count else None if mark else 1)
    assert not table


def test_any_number_of_rows(tmp_path: Path) -> None:
    write_extract(tmp_path / "big.csv", EXTRACTS[0], 25_000)
    result = LinkedRecipe.parse("mangler 1\nread delimiter ';'").run(tmp_path / "big.csv")
    assert len(result.table) == 25_000


def test_the_workbook_says_what_text_would_say(tmp_path: Path) -> None:
    """The same recipe on the workbook of a week, and on the same week as text."""
    write_sample(tmp_path)
    recipe = LinkedRecipe.load(tmp_path / "kiln-log.mangler")
    week = next(extract for extract in EXTRACTS if extract.form == "workbook")
    write_extract(tmp_path / "week-21.csv", replace(week, form="text"))
    of_book = recipe.run(tmp_path / "extracts" / week.file)
    of_text = recipe.run(tmp_path / "week-21.csv")
    assert of_book.summary.detected["header"] == "row 3"
    names = of_text.table.column_names
    assert of_book.table.column_names == [*names, "counted"]
    book = of_book.table.select(names).to_pylist()
    assert sorted(book, key=str) == sorted(of_text.table.to_pylist(), key=str)
    assert [row["kiln"] for row in book] == sorted(row["kiln"] for row in book)


def test_the_app_s_log_has_objects_and_lists(tmp_path: Path) -> None:
    write_sample(tmp_path)
    week = next(extract for extract in EXTRACTS if extract.form == "objects")
    table = LinkedRecipe.parse("mangler 1").run(tmp_path / "extracts" / week.file).table
    assert table.num_rows == 60 and {"potter.name", "potter.title"} <= set(table.column_names)
    assert str(table.schema.field("glazes").type) == "list<item: string>"
    assert str(table.schema.field("peak_c").type) == "int64"
    assert {"Dr.", "Ms.", "Mr.", None} == set(table.column("potter.title").to_pylist())
