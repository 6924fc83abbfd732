"""The verbs that change cells: what they do, what they count, and what they point out."""

from __future__ import annotations

from typing import Any

import pytest
from tests.conftest import Run

from mangler.language.mistake import ExitCode, Refusal


def step(result: Any, line: int = 2) -> Any:
    return next(step for step in result.summary.steps if step.line == line)


def test_trim_counts_what_is_emptied_and_names_the_way_to_null(run: Run) -> None:
    result = run("trim a", "a,b\n x ,y\n   ,z\nok,\n")
    assert result.table.column("a").to_pylist() == ["x", "", "ok"]
    assert (step(result).tally.counts["cells_changed"], step(result).tally.counts["cells_emptied"]) == (2, 1)
    assert 'nullify "" in' in step(result).remarks[0]


@pytest.mark.parametrize(
    ("clauses", "expected"),
    [
        ("", "a  b\nc"),
        ("left", "a  b\nc "),
        ("right", " a  b\nc"),
        ("squeeze", "a b\nc"),
        ("squeeze lines", "a b c"),
        ("left squeeze lines", "a b c "),
    ],
)
def test_trim_clauses(clean: Any, clauses: str, expected: str) -> None:
    assert clean(f"trim a {clauses}", 'a,b\n" a  b\nc ",1\n') == [[expected, "1"]]


def test_a_step_that_changed_nothing_says_so_with_the_likely_cause(run: Run) -> None:
    result = run('trim a\nfill a with "x"\nnullify "q" in a\nreplace "q" with "x" in a', "a,b\nx,1\n")
    assert [step(result, line).remarks[0] for line in (2, 3, 4, 5)] == [
        "changed nothing: these cells have no such white space",
        "changed nothing: these columns have no nulls",
        "changed nothing: no cell is one of these as a whole",
        "changed nothing: no cell holds one of these",
    ]


def test_cells_that_were_nearly_matched_are_pointed_out(run: Run) -> None:
    result = run(
        'replace "temoku" with "tenmoku" in a\nnullify "n/a" in b\nreplace "clay works" with "x" in c',
        "a,b,c\nTemoku,N/A,clay\u00a0works\ntemoku,n / a,clay works\n",
    )
    assert 'another letter case, such as "Temoku"; anycase' in step(result, 2).remarks[0]
    assert "another letter case" in step(result, 3).remarks[1]
    assert "except for white space" in step(result, 3).remarks[2]
    assert "except for white space" in step(result, 4).remarks[0]


def test_anycase_leaves_nothing_to_point_out(run: Run) -> None:
    result = run('replace "temoku" with "tenmoku" in a anycase', "a\nTemoku\ntemoku\n")
    assert step(result).remarks == []
    assert step(result).tally.counts["cells_changed"] == 2


def test_ascii_classes_compared_with_other_letters_are_pointed_out(run: Run) -> None:
    result = run(r"replace /\w+/ with 'x' in a", "a\nZoë\nPim\n1222 °C\n")
    assert "1 cell with letters beyond a to z" not in step(result).remarks
    assert any("beyond a to z" in remark and r"\p{L}" in remark for remark in step(result).remarks)
    assert not any("beyond" in r for r in step(run(r"replace /\p{L}+/ with 'x' in a", "a\nZoë\n")).remarks)


@pytest.mark.parametrize(
    ("statement", "cells", "expected"),
    [
        ('replace "-" with "=" in a', "a-b-c", "a=b=c"),
        ('replace first "-" with "=" in a', "a-b-c", "a=b-c"),
        ('replace last "-" with "=" in a', "a-b-c", "a-b=c"),
        (r"replace last /\d/ with '<\0>' in a", "1a2b3", "1a2b<3>"),
        (r"replace first /(\d)(\w)/ with '\2\1' in a", "1a2b", "a12b"),
        (r'replace first /(\d)(\w)/ with "\2\1" in a', "1a2b", "a12b"),
        (r'replace /(\d)/ with "<\1>\u{21}", /(b)/ with "\\1" in a', "1a2b", "<1>!a<2>!b"),
        (r'change a to replace(cell, /(\d)/, "<\1>")', "1a2b", "<1>a<2>b"),
        ('replace "a" with "{" in a', "a", None),
        ('replace "GOOD" with "good" in a whole anycase', " Good ", "good"),
        (r"replace /(\d+) C/ with '\1' in a whole", " 12 C ", "12"),
        (r"replace /\s/ with '_' in a", "a\u00a0b\u200bc", "a_b_c"),
        (r"replace /[\S]/ with '.' in a", "a b", ". ."),
    ],
)
def test_replace_forms(clean: Any, statement: str, cells: str, expected: str | None) -> None:
    if expected is None:
        with pytest.raises(Refusal, match="opens a hole"):
            clean(statement, f"a,b\n{cells},1\n")
        return
    assert clean(statement, f"a,b\n{cells},1\n") == [[expected, "1"]]


def test_many_patterns_in_one_pass_are_refused_with_a_way_out(clean: Any) -> None:
    pairs = ", ".join(f"/{letter}(x)/ with '\\1'" for letter in "abcde")
    with pytest.raises(Refusal, match="10 patterns and groups"):
        clean(f"replace {pairs} in a", "a\nx\n")


def test_nullify_and_fill_cover_nulls_and_blanks(clean: Any) -> None:
    extract = 'a,b\n"",1\n  ,2\n-,3\n,4\nx,5\n'
    assert [row[0] for row in clean('nullify "", "-" in a', extract)] == [None, None, None, None, "x"]
    assert [row[0] for row in clean('fill a with "?"', extract)] == ["", "  ", "-", "?", "x"]
    assert [row[0] for row in clean('nullify "" in a\nfill a with "?"', extract)] == ["?", "?", "-", "?", "x"]


def test_fill_counts_the_empty_texts_it_left(run: Run) -> None:
    result = run('fill a with "?"', 'a,b\n"",1\n,2\n')
    assert step(result).tally.counts["nulls_filled"] == 1
    assert "1 blank text was left" in step(result).remarks[0]


@pytest.mark.parametrize("value", ["0", "1.5", "true"])
def test_fill_refuses_a_value_of_another_type(clean: Any, value: str) -> None:
    with pytest.raises(Refusal, match='"a" is text') as refused:
        clean(f"fill a with {value}", "a\nx\n")
    assert refused.value.code is ExitCode.WRONG_FOR_ANY_EXTRACT
    assert f'"{value}"' in refused.value.mistakes[0].advice


def test_no_rows_one_row_and_many_columns(clean: Any) -> None:
    steps = 'trim * squeeze\nnullify "-" in *\nfill * with "?"\nreplace "a" with "b", /c/ with "d" in *'
    assert clean(steps, "a,b\n") == []
    assert clean(steps, "a,b\n a c ,\n") == [["b d", "?"]]
    wide = ",".join(f"c{i}" for i in range(3000))
    assert clean(steps, f"{wide}\n{','.join(['ac'] * 3000)}\n") == [["bd"] * 3000]
