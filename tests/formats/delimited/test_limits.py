"""Headers and records that would take minutes or all memory: linear time, or a clear refusal."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.formats import header_names
from mangler.formats.delimited.dialect import spelling_of
from mangler.formats.delimited.records import find_marks, split_record
from mangler.formats.header_names import unique_names
from mangler.language.mistake import Refusal

pytestmark = pytest.mark.usefixtures("in_a_minute")

PLAIN = LinkedRecipe.parse("mangler 1\n")


def test_names_are_made_unique_in_one_pass() -> None:
    assert unique_names(["a", "a", " ", "a_2", "b", "a", ""]) == [
        "a",
        "a_3",
        "column_3",
        "a_2",
        "b",
        "a_4",
        "column_7",
    ]
    many = unique_names(["a"] * 50_000)
    assert many[-1] == "a_50000" and len(set(many)) == 50_000
    assert len(set(unique_names([""] * 50_000))) == 50_000


@pytest.mark.parametrize("names", [["a"] * 2000, [""] * 8000])
def test_a_long_list_of_names_is_cut(tmp_path: Path, names: list[str]) -> None:
    (tmp_path / "a.csv").write_text(",".join(names) + "\n")
    with pytest.raises(Refusal) as refusal:
        PLAIN.run(tmp_path / "a.csv")
    assert f"… ({len(names):,} names)" in str(refusal.value) and len(str(refusal.value)) < 500


def test_too_many_columns_are_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(header_names, "MOST_COLUMNS", 10)
    (tmp_path / "a.csv").write_text(",".join(f"c{n}" for n in range(11)) + "\n")
    for recipe in (PLAIN, LinkedRecipe.parse("mangler 1\nread header absent")):
        with pytest.raises(Refusal, match="has 11 columns, and at most 10 are read"):
            recipe.run(tmp_path / "a.csv")


def test_a_header_far_down_is_looked_for_only_as_far_as_the_file_goes(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("a\n1\n")
    with pytest.raises(Refusal, match="fewer lines than read header row"):
        LinkedRecipe.parse("mangler 1\nread header row 2_000_000_000").run(tmp_path / "a.csv")


@pytest.mark.parametrize(
    "content",
    [
        b'"x"y,1\n' * 200_000,
        b'"x"y,' * 500_000 + b"\n",
        b'#"x"y,' * 500_000 + b"\n",
        b'a"' * 500_000 + b"\n",
        b'"' + b"\n" * 1_000_000,
        b'""' * 500_000,
        b"x\r" * 500_000,
    ],
    ids=["rows", "fields", "comment", "inside", "unclosed", "doubled", "returns"],
)
def test_quotes_are_reported_apart_in_linear_time(content: bytes) -> None:
    """In seconds, not hours: each of these was quadratic, or made a call for every byte."""
    spelling = spelling_of(",", '"', comment="#")
    marks = find_marks(np.frombuffer(content, np.uint8), spelling)
    assert len(marks.broken) == content.count(b'"x"y') * (not content.startswith(b"#"))
    fields = split_record(content.split(b"\n")[0], spelling)
    assert b",".join(fields) == content.split(b"\n")[0]


def test_a_quote_in_the_header_that_is_never_closed_takes_in_no_rows(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_bytes(b'kiln,"cone\n007,06\n012,6\n')
    with pytest.raises(Refusal, match="line 1: the quote opened in its header is never closed"):
        LinkedRecipe.parse('mangler 1\nread delimiter ","').run(tmp_path / "a.csv")


def test_no_delimiter_is_chosen_that_makes_a_quote_take_in_the_rest(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_bytes(b'x:"peak\r\t"\n119:303\n840:91147')
    assert PLAIN.run(tmp_path / "a.csv").table.to_pylist() == [
        {"x": "119", "peak\r\t": "303"},
        {"x": "840", "peak\r\t": "91147"},
    ]


def test_a_header_without_byte_order_mark_in_utf_16(tmp_path: Path) -> None:
    path = tmp_path / "a.csv"
    path.write_bytes("kiln,cone\n007,06\n".encode("utf-16-be"))
    recipe = LinkedRecipe.parse('mangler 1\nread encoding "utf-16"')
    assert recipe.run(path).table.to_pylist() == [{"kiln": "007", "cone": "06"}]
    path.write_bytes(b"kiln,cone\n007,06\n")
    with pytest.raises(Refusal, match="the order of its bytes cannot be known"):
        recipe.run(path)
    with pytest.raises(Refusal, match=r"its header holds the bytes .* not UTF-32"):
        LinkedRecipe.parse('mangler 1\nread encoding "utf-32"').run(path)
