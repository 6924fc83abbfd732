"""What is accepted and surely not meant is pointed out, once it is seen in the rows."""

from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.language.mistake import Refusal

ROWS = """g,k,n,m,t
ash; Ash,a,10,4,x
ASH; ash,A,9,,X
ash,b,100,2,x
,b,7,,y
"""
TOLD = [
    ("make x = '{g}!'", 'in single quotes braces are no holes; write "{g}!"'),
    ('make x = "g"', '"g" is a text; the column is written without quotes: g'),
    ('keep rows where t = "k"', '"k" is a text; the column is written without quotes: k'),
    ('keep characters "a-z" in g', '"a-z" is three characters: a, - and z'),
    ('replace "ash" with "x" in g', "2 cells left that would match in another letter case"),
    ('clean list g at ";" without "ash"', "2 cells left that would match in another letter case"),
    ('split g at "ash;" into a?, b?, c?', "would match in another letter case"),
    ("sort by n", "n is text, and holds nothing but numbers: as texts 10 comes before 9"),
    (
        "group by k with c = count()",
        '1 group differs from another one only in letter case, such as "A" and "a"',
    ),
    ("dedupe by k leaving last", '1 row differs from another one only in letter case, such as "A" and "a"'),
    (
        "dedupe by k leaving first",
        '1 row stayed that differs from an earlier one only in letter case, such as "A"',
    ),
    ('join g, k with ";" into j', '2 values hold ";" already'),
    ('make l = "{g} {m}"', "null where a hole is null: g in 1 row, m in 2 rows"),
    ('keep rows where t = "x"', '1 row has "x" in t in another letter case only'),
    ('keep rows where k contains "a"', 'write lower(k) contains "a"'),
    ("unpivot m, g into a, b drop nulls", "1 row had nothing but nulls there"),
    ("capture g by /^(ash)/ into u", "1 cell would match in another letter case: the flag i"),
    ('split g at "; " into a? /zz/, b?, c?', "no part of any row matches the pattern of a?"),
    ("parameter p = 3\ntrim *", "the parameter p (line 3) is not used"),
]
SILENT = [
    'make x = "{g}!"',
    'make x = "other"',
    'keep characters "-az" in g',
    'replace "ash" with "x" in g anycase',
    'clean list g at ";" without "ash" anycase',
    "convert n to integer\nsort by n",
    "sort by k",
    "sort by t, m",
    "group by k anycase with c = count()",
    "dedupe by k leaving last anycase",
    "dedupe by k leaving first anycase",
    "dedupe by n leaving first",
    "dedupe by n",
    'join t, k with ";" into j',
    'join g, k with " " into j',
    'make l = "{k}"',
    'make l = "{g?} {m?}"',
    'keep rows where t = "y"',
    'keep rows where lower(t) = "x"',
    "unpivot n, k into a, b drop nulls",
    "capture g by /^(ash)/i into u",
    'split g at ";" into a? /ash/i, b?, c?',
    "parameter p = 3\nmake x = p",
]


def remarks(tmp_path: Path, steps: str, text: str = ROWS, read: str = 'read nulls ""') -> list[str]:
    (tmp_path / "e.csv").write_text(text)
    recipe = LinkedRecipe.parse(f"mangler 1\n{read}\n{steps}\n")
    found = []
    for size in (16, 1 << 20):  # the remarks are the same, however the rows come in
        result = recipe.run(tmp_path / "e.csv", options=RunOptions(partition_size=size))
        lines = result.summary.steps
        found.append([told for line in lines for told in (*line.remarks, *line.facts)])
    assert found[0] == found[1]
    return found[0]


@pytest.mark.parametrize(("steps", "told"), TOLD)
def test_it_is_pointed_out(tmp_path: Path, steps: str, told: str) -> None:
    assert any(told in one for one in remarks(tmp_path, steps)), remarks(tmp_path, steps)


@pytest.mark.parametrize("steps", SILENT)
def test_what_may_be_meant_is_not(tmp_path: Path, steps: str) -> None:
    words = (
        "case",
        "quotes",
        "characters:",
        "10 comes",
        "already",
        "hole",
        "pattern of",
        "not used",
        "nothing but",
    )
    assert not [one for one in remarks(tmp_path, steps) if any(word in one for word in words)]


def test_codes_of_one_length_are_no_numbers(tmp_path: Path) -> None:
    assert not remarks(tmp_path, "sort by k", "k\n007\n012\n")


def test_a_missing_flag_for_line_breaks(tmp_path: Path) -> None:
    text = 'g\n"from\nto"\n'
    found = remarks(tmp_path, "capture g by /from(.*)to/ into u", text)
    assert any("1 cell would match if . matched line breaks: the flag s" in one for one in found)
    assert not any("flag s" in one for one in remarks(tmp_path, "capture g by /from(.*)to/s into u", text))


def test_a_number_column_is_filled_with_a_text_after_its_conversion(tmp_path: Path) -> None:
    with pytest.raises(Refusal) as refused:
        remarks(tmp_path, 'convert m to integer\nfill m with "none"')
    assert "convert m to text" in refused.value.mistakes[0].advice
    assert not remarks(tmp_path, 'convert m to integer\nconvert m to text\nfill m with "none"')


def test_blanks_that_fill_leaves_are_counted(tmp_path: Path) -> None:
    found = remarks(tmp_path, 'fill k with "x"', 'g,k\n1,\n2," "\n3,a\n', 'read delimiter ","')
    assert any("1 blank text was left" in one for one in found)
