"""Fixed widths, runs of spaces, delimiters of several characters: as a plain loop over the lines has them."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import Run

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.language.mistake import Refusal

CELL = st.text("aé ½x", max_size=5)


def rows_of(recipe: str, path: Path, block: int = 1 << 20) -> list[tuple[str | None, ...]]:
    result = LinkedRecipe.parse(f"mangler 1\n{recipe}\ntolerate 100%").run(
        path, options=RunOptions(partition_size=block)
    )
    return list(zip(*[column.to_pylist() for column in result.table.columns], strict=True))


@given(
    st.lists(st.tuples(CELL, CELL, st.text("aé x", max_size=9)), max_size=8),
    st.integers(1, 60),
    st.booleans(),
)
def test_fixed_widths(tmp_path: Path, cells: list[tuple[str, str, str]], block: int, crlf: bool) -> None:
    lines = [f"{one:<5}{two:>5}{three}" for one, two, three in cells]
    lines = [line for line in lines if line.rstrip()]
    path = tmp_path / "e.txt"
    path.write_bytes(("\r\n" if crlf else "\n").join(["one  two  three", *lines, ""]).encode())
    expected = [
        tuple(cell.strip(" ") or None for cell in (line[:5], line[5:10], line[10:])) for line in lines
    ]
    assert rows_of("read widths 5, 5, 9", path, block) == expected


@given(
    st.lists(st.lists(st.sampled_from(["a", "bb", "é", '"x y"', '""']), min_size=2, max_size=2)), st.data()
)
def test_runs_of_spaces(tmp_path: Path, cells: list[list[str]], data: st.DataObject) -> None:
    gap = st.sampled_from([" ", "  ", "     "])
    outer = st.sampled_from(["", " ", "   "])
    lines = [data.draw(outer) + data.draw(gap).join(row) + data.draw(outer) for row in cells]
    path = tmp_path / "e.txt"
    path.write_text("\n".join([" one   two ", *lines, ""]), "utf-8")
    expected = [tuple(cell.strip('"') for cell in row) for row in cells]
    block = data.draw(st.integers(1, 60))
    assert rows_of('read delimiter " " in runs', path, block) == expected


@given(
    st.sampled_from(["||", "::", "|~|", "aba"]),
    st.lists(st.lists(st.sampled_from(["", "k", "k l", "m:n", '"u|v"']), min_size=3, max_size=3)),
)
def test_delimiters_of_several_characters(tmp_path: Path, delimiter: str, cells: list[list[str]]) -> None:
    path = tmp_path / "e.txt"
    path.write_text("\n".join([delimiter.join(["one", "two", "three"]), *map(delimiter.join, cells), ""]))
    expected = [tuple(cell.strip('"') or None for cell in row) for row in cells]
    assert rows_of(f'read delimiter "{delimiter}"', path) == expected


def test_a_delimiter_of_several_characters_comes_back(tmp_path: Path) -> None:
    """A cell that ends in a part of the delimiter is quoted: without quotes it would move into the next one."""
    (tmp_path / "e.csv").write_text('one,two\na|,b\n|,""\n,|||\n')
    LinkedRecipe.parse('mangler 1\nread delimiter ","\nwrite delimiter "||"').run(
        tmp_path / "e.csv", tmp_path / "o.txt"
    )
    assert rows_of('read delimiter "||"', tmp_path / "o.txt") == [("a|", "b"), ("|", ""), (None, "|||")]


def test_a_line_of_blanks_has_no_place_among_runs(run: Run) -> None:
    result = run('read delimiter " " in runs', "a b\n1 2\n   \n3 4\n")
    assert [row.reason for row in result.rows_aside] == ["nothing but delimiters"]
    assert [row.line for row in result.rows_aside] == [3]


def test_rows_set_aside_run_again_whatever_divided_them(tmp_path: Path) -> None:
    for words, text in (
        ("widths 6, 6, 9", "kiln  cone  remark\n007   06    went well, so\n008         bad\n"),
        ('delimiter " " in runs', 'kiln  cone  remark\n007  06  "went well, so"\n008 ""  bad\n'),
    ):
        (tmp_path / "e.txt").write_text(text)
        recipe = LinkedRecipe.parse(
            f'mangler 1\nread {words}\nset aside rows where kiln < "900" because "old"'
        )
        recipe.run(tmp_path / "e.txt", tmp_path / "o.csv", tmp_path / "o.aside.csv")
        aside = (tmp_path / "o.aside.csv").read_text()
        assert '007,06,"went well, so"' in aside
        (tmp_path / "o.aside.csv").write_text(aside.replace("007", "907"))
        table = recipe.run(tmp_path / "o.aside.csv").table
        assert [column.to_pylist() for column in table.columns] == [["907"], ["06"], ["went well, so"]]


@pytest.mark.parametrize(
    ("words", "text", "names"),
    [
        ("header row 3", "log\n\na;b\n1;2\n", ["a", "b"]),
        ('header row 2 comment "#"', "# log\n# a;b\n1;2\n", ["# a", "b"]),
        ("header rows 2", "x;;y\na;b;c\n1;2;3\n", ["x a", "x b", "y c"]),
        ("header rows 2", "x;;y\n;b;\n1;2;3\n", ["x", "x b", "y"]),
        ("names completed", "a;;a\n1;2;3\n", ["a", "column_2", "a_2"]),
        ("names completed", "a;b\n1;2;3\n4;5;6\n", ["column_1", "a", "b"]),
        ("called p, q, r", "a;b\n1;2;3\n4;5;6\n", ["p", "q", "r"]),
        ("called p, q, r ragged pad", "a;b\n1\n4;5;6\n", ["p", "q", "r"]),
        ("header absent called p, q, r ragged pad", "1\n4;5;6\n", ["p", "q", "r"]),
    ],
)
def test_where_names_come_from(tmp_path: Path, words: str, text: str, names: list[str]) -> None:
    (tmp_path / "e.csv").write_text(text)
    result = LinkedRecipe.parse(f'mangler 1\nread delimiter ";" {words}').run(tmp_path / "e.csv")
    assert [column.name for column in result.columns] == names
    assert result.summary.balance.set_aside == 0


def test_an_empty_line_is_no_header(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text("log\n\n\na;b\n1;2\n")
    with pytest.raises(Refusal, match=r"line 2 is empty(.|\n)*read header row 4"):
        rows_of("read header row 2", tmp_path / "e.csv")


def test_a_header_row_that_counts_otherwise_than_before_is_told(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text("log\n\na;b\n1;2\n")
    found = LinkedRecipe.parse("mangler 1\nread header row 3").run(tmp_path / "e.csv").summary.detected
    assert found["header"] == "on line 3, counting the empty lines and comments above it"
    (tmp_path / "e.csv").write_text("log\nx\na;b\n1;2\n")
    assert (
        "header"
        not in LinkedRecipe.parse("mangler 1\nread header row 3").run(tmp_path / "e.csv").summary.detected
    )


def test_lines_that_end_in_cr(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_bytes(b'a;b\r1;"x\ry"\r3;4')
    assert rows_of('read delimiter ";"', tmp_path / "e.csv", 4) == [("1", "x\ny"), ("3", "4")]
    (tmp_path / "e.csv").write_bytes(b"a;b\n1;x\ry\n3;4\n")
    assert rows_of('read delimiter ";"', tmp_path / "e.csv") == [("1", "x\ry"), ("3", "4")]
