"""Where a table is in a text is detected, and said in the words of `read`; ordinary files have nothing to find."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.formats.contract import ReadRequest
from mangler.formats.delimited.survey import survey
from mangler.formats.registry import open_source
from mangler.recipes.options import read_words
from mangler.steps.read import settings
from mangler.table.read_words import read_statement
from mangler.table.settings import ReadSettings

LOG = "007;06;1222\n008;6;1000\n009;6;1100\n"

FOUND = {
    "comments": (
        "# log\n% no comment here\n# week 18\nkiln;cone;peak\n" + LOG,
        'delimiter ";" header row 4 comment "#"',
    ),
    "comments only": ("# log\n# week 18\nkiln;cone;peak\n" + LOG, 'delimiter ";" comment "#"'),
    "slashes": ("// log\nkiln;cone;peak\n" + LOG, 'delimiter ";" comment "//"'),
    "title": ("Kiln log of week 18\nkiln;cone;peak\n" + LOG, 'delimiter ";" header row 2'),
    "title, blank": ("Kiln log\n\n\nkiln;cone;peak\n" + LOG, 'delimiter ";" header row 4'),
    "padded title": ("Kiln log;;\n;;\nkiln;cone;peak\n" + LOG, 'delimiter ";" header row 3'),
    "no header": (LOG + LOG, 'delimiter ";" header absent'),
    "no header, words": (
        "good;gas\nbad;gas\ngood;wood\nbad;gas\ngood;gas\n",
        'delimiter ";" header absent',
    ),
    "title, no header": ("Kiln log\n" + LOG + LOG, 'delimiter ";" header absent skip 1'),
    "row names": ("cone;peak\n" + LOG, 'delimiter ";" called column_1, cone, peak'),
    "unnamed": ("kiln;;kiln\n" + LOG, 'delimiter ";" called kiln, column_2, kiln_2'),
    "two lines": ("kiln;peak;held\n;°C;min\n" + LOG + LOG, 'delimiter ";" header rows 2'),
    "short rows": ("kiln;cone;peak;note\n" + LOG + LOG, 'delimiter ";" ragged pad'),
    "spaces": ("kiln cone peak\n" + LOG.replace(";", " "), 'delimiter " "'),
    "runs": ("kiln   cone peak\n007  06   1222\n008  6    1000\n", 'delimiter " " in runs'),
    "runs below a title": (
        "Log of kilns\n====\nkiln  cone  peak\n" + (LOG + LOG).replace(";", "    "),
        'delimiter " " in runs header row 3',
    ),
    "widths": (
        "kiln  cone  remark\n007   06    went well\n008   6     cracked at the rim\n009         good\n",
        "widths 6, 6, 18",
    ),
    "two characters": ("kiln||cone\n007||06\n008||\n", 'delimiter "||"'),
    "mixed characters": ("kiln|~|cone\n007|~|06\n008|~|\n", 'delimiter "|~|"'),
    "years": ("kiln;2024;2025;2026\n007;1;2;3\n008;4;5;6\n", 'delimiter ";"'),
    "tabs and empty cells": ("kiln\tcone\tpeak\n007\t\t1222\n008\t6\t\n", 'delimiter "\\t"'),
    "a mark before the names": ("#kiln;cone;peak\n" + LOG, 'delimiter ";"'),
    "rows with a mark": ("kiln;note\n7;#1\n#8;x\n", 'delimiter ";"'),
    "prose": ("note\nIt went well, I think\nCracked, sadly, at the rim\nFine\n", ""),
    "names of people": ("potter\nVerhoe, Pim\nAslan, Tove\nKallo, Ines\n", ""),
    "words": ("First name\nInes Kallo\nTove Aslan\nPim Verhoe\n", ""),
    "one line": ("kiln;cone\n", 'delimiter ";"'),
}


def words(text: str) -> str:
    said = read_statement(survey(text.encode(), True, ReadSettings())).removeprefix("read ")
    return "" if said == 'delimiter ","' else said


@pytest.mark.parametrize("name", FOUND)
def test_the_layout_is_found_and_reads_so_when_it_is_said(tmp_path: Path, name: str) -> None:
    text, expected = FOUND[name]
    path = tmp_path / "e.csv"
    path.write_text(text, "utf-8")
    surveyed = open_source(str(path), ReadRequest(survey=True))
    said = read_statement(surveyed.read_as)
    assert said == f"read {expected}" if expected else not surveyed.layout_found
    as_said = open_source(str(path), ReadRequest(settings(read_words(said))))
    assert as_said.schema.names == surveyed.schema.names
    for ours, theirs in zip(surveyed.partitions(), as_said.partitions(), strict=True):
        left, right = surveyed.read(ours), as_said.read(theirs)
        assert [c.to_pylist() for c in left.batch.columns] == [c.to_pylist() for c in right.batch.columns]
        assert not len(left.unfit)
    surveyed.close()
    as_said.close()


def test_what_is_said_is_not_looked_for() -> None:
    text = b"Kiln log\nkiln;cone\n007;06\n008;6\n"
    for said in ("header row 1", "header absent", 'delimiter ","', 'comment "K"'):
        given_settings = settings(read_words(said))
        found = survey(text, True, given_settings)
        for clause in given_settings.clauses:
            name = {"header row": "header_row", "header absent": "header_absent"}.get(clause, clause)
            assert getattr(found, name) == getattr(given_settings, name)


NAME = st.text("abcdefgh_", min_size=1, max_size=8)


@given(
    st.lists(NAME, min_size=2, max_size=6, unique=True),
    st.lists(st.integers(0, 9999), min_size=3, max_size=12),
    st.sampled_from(",;\t|"),
)
def test_an_ordinary_table_has_nothing_to_find(names: list[str], numbers: list[int], delimiter: str) -> None:
    rows = [
        delimiter.join([f"x{number}", *[str(number + i) for i in range(len(names) - 1)]])
        for number in numbers
    ]
    found = survey("\n".join([delimiter.join(names), *rows, ""]).encode(), True, ReadSettings())
    assert found == ReadSettings(delimiter=delimiter)
